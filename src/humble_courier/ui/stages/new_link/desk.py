"""The desk of the page on which a link is begun: keeps what was picked, proposes the rest, and puts it on the line."""

from humble_courier.app.link.beginning import OfferedDevice, SeenFace, candidates, faces, finished, simulated_port, ways
from humble_courier.app.link.stages import Stage
from humble_courier.app.port import listing
from humble_courier.app.wire.proposals import Proposal
from humble_courier.app.wire.tracing import preview
from humble_courier.domain.facts import State
from humble_courier.errors import BadInput
from humble_courier.ui.desk import StageDesk
from humble_courier.ui.stages.new_link.stage import NewLinkStage
from humble_courier.ui.timer import Timer
from humble_courier.ui.widgets.state_list import ListEntry
from humble_courier.ui.workplace import Workplace
from humble_courier.wiring.findings import Verdict

LOOK_MS = 1000
STATES = {Verdict.WORKS: State.PROVEN, Verdict.WITHOUT_HANDSHAKE: State.ASSUMED}
PUT_IN = "Put its plug in now: it is taken as soon as it appears."


class NewLinkDesk(StageDesk):
    """Everything of the page that is not drawing."""

    def __init__(self, work: Workplace) -> None:
        self.stage = NewLinkStage()
        super().__init__(self.stage, work)
        self._face: SeenFace | None = None
        self._faces: list[SeenFace] = []
        self._half, self._words, self._device, self._address = "", "", "", ""
        self._found: list[OfferedDevice] = []
        self._ways: list[Proposal] = []
        self._way = 0
        self._known: list[str] | None = None
        self._came = ""
        stage = self.stage
        stage.face_chosen.connect(self._take_face)
        stage.half_chosen.connect(self._take_half)
        stage.searched.connect(self._take_words)
        stage.device_chosen.connect(self._take_device)
        stage.way_chosen.connect(self._take_way)
        stage.port_chosen.connect(self._take_port)
        stage.made.connect(lambda listens: work.do(lambda: self._make(listens)))
        work.device_wanted.connect(self._begin_with)
        self._watch = Timer(self, self._look, LOOK_MS)
        self._watch.start()

    def show(self) -> None:
        """Offer what there is; what was picked stays."""
        if not self._faces:
            self._faces = faces(self.work.catalog)
        self.stage.faces.show_faces([(face.name, face.shape) for face in self._faces], self.work.theme)
        self._show_devices()
        self._show_ports()

    def rest(self) -> None:
        """The window goes."""
        self._watch.stop()

    # What is picked

    def _take_face(self, at: int) -> None:
        self._face = self._faces[at]
        if self._half not in self._face.genders:
            self._half = self._face.genders[0] if len(self._face.genders) == 1 else ""
        self._device = ""
        self._show_devices()

    def _take_half(self, half: str) -> None:
        self._half, self._device = half, ""
        self._show_devices()

    def _take_words(self, words: str) -> None:
        self._words = words
        self._show_devices()

    def _take_device(self, at: int) -> None:
        self.choose(self._found[at].id)

    def _begin_with(self, device: str) -> None:
        """A device is known already: what its connector looks like is not asked."""
        self._face, self._half, self._words = None, "", ""
        self.stage.search.clear()
        self.stage.faces.clear_choice()
        self.choose(device)

    def choose(self, device: str) -> None:
        """Take a device, a kind or a bare port; ways to it are proposed at once."""
        self._device, self._way = device, 0
        if self.work.machine is not None:  # in the demo each device has its own simulated port
            self._address = simulated_port(device)
        self._show_devices()
        self._show_ports()

    def _take_way(self, at: int) -> None:
        self._way = at
        self._show_ways()

    def _take_port(self, _text: str) -> None:
        self._address = self.stage.address()

    # What is shown

    def _show_devices(self) -> None:
        stage, theme = self.stage, self.work.theme
        self._found = candidates(self.work.catalog, self._face, self._half, self._words)
        stage.show_half(self._face.genders if self._face is not None else ("plug", "socket"), self._half)
        ids = [one.id for one in self._found]
        lines = [ListEntry(one.state, one.name, one.told) for one in self._found]
        stage.devices.show_lines(lines, ids.index(self._device) if self._device in ids else -1, theme)
        self._propose()

    def _propose(self) -> None:
        self._ways = []
        if self._device:
            try:
                self._ways = ways(self.work.catalog, self.work.opened_records().bag.kit, self._device)
            except BadInput as error:
                self.work.complain(error)
        self._show_ways()

    def _show_ways(self) -> None:
        stage, theme = self.stage, self.work.theme
        self._way = min(self._way, max(0, len(self._ways) - 1))
        lines = [
            ListEntry(
                STATES.get(way.verdict, State.CONTRADICTED), way.title, f"{way.verdict.value} · {way.told}", way.whence.value
            )
            for way in self._ways
        ]
        stage.ways.show_lines(lines, self._way if lines else -1, theme)
        chosen = self._ways[self._way] if self._ways else None
        stage.show_wiring(preview(chosen.model, self.work.catalog) if chosen is not None else None, theme)
        self._say(chosen)

    def _say(self, chosen: Proposal | None) -> None:
        first = not self.work.opened_records().links()
        if chosen is not None:
            headline = f"It can work: {chosen.title}, {chosen.whence.value}"
            self.stage.say(headline, "Everything here can be changed later. Nothing is opened or sent until you listen.")
        elif self._device:
            self.stage.say(
                "No way there is known", "No part of the catalog and no lead joins these two: read the port by meter."
            )
        elif first:
            reason = "Touch the connector that you see, then what it is; the way there is proposed."
            self.stage.say("No link yet: begin with what you see at the device", reason)
        else:
            self.stage.say("Another link: what do you see at the device?", "Touch its connector; the way there is proposed.")

    def _show_ports(self) -> None:
        ports = self._ports()
        if self._came:
            hint = f"{self._came} appeared just now: taken."
        else:
            hint = "A simulated port; the device stands behind it." if self.work.machine is not None else PUT_IN
        self.stage.show_ports(ports, self._address, hint)

    def _ports(self) -> list[tuple[str, str]]:
        if self.work.machine is not None:
            catalog = self.work.catalog
            ids = [id_ for id_ in catalog.device_ids() if not catalog.is_kind(id_)]
            ids += [self._device] if self._device and self._device not in ids else []
            return [(simulated_port(id_), f"{simulated_port(id_)} (simulated)") for id_ in ids]
        return listing.choices()

    def _look(self) -> None:
        """What appears while this page is open is the adapter that was put in."""
        if self.work.machine is not None or not self.stage.isVisible():
            self._known = None
            return
        here = [address for address, _ in listing.choices()]
        new = [address for address in here if self._known is not None and address not in self._known]
        self._known = here
        if new:
            self._address = self._came = new[0]
            self._show_ports()

    def _make(self, listens: bool) -> None:
        """Make the link and put it on the line."""
        if not self._ways:
            raise BadInput("choose the device first: touch its connector, then what it is")
        way = self._ways[self._way].model
        records = self.work.opened_records()
        link = finished(way, self.stage.address() or None, records.settings_of_last_like(way.device))
        link_id = records.add(link, self.stage.name.text().strip())
        self._device, self._words, self._came = "", "", ""
        self.stage.name.clear()
        self.stage.search.clear()
        if self.work.open(link_id):
            self.work.go(Stage.WIRE)
            if listens and self.work.link is not None and link.address:
                self.work.go(Stage.TALK)
                self.work.do(self.work.link.listen)
