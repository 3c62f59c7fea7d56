"""The desk of a device's network port: both addresses judged, a connection tried, its address asked for and set."""

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor

import msgspec
from PyQt6.QtCore import QObject, pyqtSignal

from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.settings import address_rows as sheets
from humble_courier.app.settings import reaching
from humble_courier.app.settings.sockets import sockets
from humble_courier.app.settings.timings import Figure
from humble_courier.errors import BadInput, CourierError
from humble_courier.ui.stages.settings.address_page import NetworkPane
from humble_courier.ui.workplace import Workplace

ADDRESS = "network address"  # under which it is noted


class NetworkDesk(QObject):
    """`told` gives the stage its headline."""

    _tried = pyqtSignal(object)

    def __init__(self, pane: NetworkPane, work: Workplace, told: Callable[[str, str], object]) -> None:
        super().__init__(pane)
        self.pane, self.work, self._tell = pane, work, told
        self._workers = ThreadPoolExecutor(max_workers=1, thread_name_prefix="reaching")
        self._reached: list[Figure] = []
        self._open: tuple[str, int] | None = None  # where somebody listens
        self._line, self._heard = 0, ""
        self._lines: list[str] = []
        self._trying: tuple[OpenLink, str] | None = None  # for which link, and at which address
        pane.tried.connect(lambda: work.do(self._try))
        pane.taken.connect(lambda: work.do(self._take))
        pane.asked.connect(lambda: work.do(self._ask))
        pane.said.connect(lambda: work.do(self._set))
        self._tried.connect(self._came)

    def begin(self, link: OpenLink) -> None:
        """Fill in what is known of both ends."""
        sheet = link.document.link.sheet
        network = sheet.network if sheet is not None else None
        self.pane.begin((network.factory or "") if network is not None else "", sockets(link.document.simulated))
        self._reached, self._open, self._line, self._heard = [], None, 0, ""

    def show(self, link: OpenLink) -> None:
        """Show the verdict. Raises BadInput for what is no address."""
        pane, sheet = self.pane, link.document.link.sheet
        present = reaching.heard(link.live.utterances(), sheet)
        if present and present != self._heard:  # told anew: what a person typed since then stays
            self._heard = present
            pane.fields["device"].setText(present)
        typed = {key: field.text().strip() for key, field in pane.fields.items()}
        wanted = typed.pop("wanted")
        lines = reaching.lines_to_set(sheet, wanted)
        if lines != self._lines:  # another address: from the first line on, so that nothing half said is stored
            self._lines, self._line = lines, 0
        may_ask = sheet is not None and sheet.network is not None and sheet.network.read is not None
        says = reaching.says(typed["device"], reaching.ports_of(sheet))
        found = self._open is not None and self._open[0] == typed["device"].partition("/")[0]
        pane.show_acts(says, found, may_ask, lines[self._line] if self._line < len(lines) else "")
        noted = next((note for note in link.notes() if note.name == ADDRESS), None)
        pane.show_before(noted.before[0].value if noted is not None and noted.before and lines == [] else "")
        serial = sheets.serial_figures(sheet, wanted or typed["device"])
        blocks = [("What came of trying", self._reached)] if self._reached else []
        blocks += [("Over the serial port", serial)] if serial else []
        if typed["device"] and typed["computer"]:
            cable = sheets.network_figures(**typed, socket=pane.sockets.currentData() or "")
            blocks.insert(0, ("Over the network cable", cable))
            bad = [figure for figure in cable if not figure.good]
            remedy = next((f"Take {figure.value}" for figure in cable if figure.what.startswith("Take")), "")
            good = "Computer and device reach each other on paper", "“Is it there?” tries it."
            self._tell(*((bad[0].value, remedy) if bad else good))
        else:
            self._tell("Type the device's address", "The computer's is taken from its sockets.")
        pane.show_told(blocks, self.work.theme)

    def rest(self) -> None:
        """Wait for a try that is under way."""
        self._workers.shutdown(wait=True)

    def _link(self) -> OpenLink:
        assert self.work.link is not None, "without a link there is no such page"
        return self.work.link

    def _try(self) -> None:
        fields = self.pane.fields
        ports = reaching.ports_of(self._link().document.link.sheet)
        self.pane.reach.setEnabled(False)
        device, computer = fields["device"].text().strip(), fields["computer"].text().strip()
        self._trying = self._link(), device
        self._workers.submit(reaching.tried, device, computer, ports).add_done_callback(self._tried.emit)

    def _came(self, done: "Future[tuple[list[Figure], int | None]]") -> None:
        self.pane.reach.setEnabled(True)
        error = done.exception()
        if isinstance(error, CourierError):
            self.work.complain(error)
            return
        link, device = self._trying or (None, "")
        reached, port = done.result()
        if link is None or link is not self.work.link:
            return  # another link is on the line by now
        self._reached = reached
        self._open = (device.partition("/")[0], port) if port is not None else None
        good = [figure for figure in self._reached if figure.good]
        text = f"{device} is there: {good[-1].what.lower()}, {good[-1].value}" if good else f"Nobody answers at {device}"
        link.ledger.measured("network", text, bool(good), "connections that were tried")
        self.pane.changed.emit()

    def _take(self) -> None:
        """The open port becomes the port of the link: words and proof go over it."""
        link = self._link()
        if self._open is not None:
            address, port = self._open
            link.change(msgspec.structs.replace(link.document.model, address=f"socket://{address}:{port}"))

    def _ask(self) -> None:
        sheet = self._link().document.link.sheet
        if sheet is not None and sheet.network is not None and sheet.network.read is not None:
            self._link().say(sheet.network.read.say)

    def _note(self, address: str) -> None:
        now = next((note.now for note in self._link().notes() if note.name == ADDRESS), "")
        if address and address != now:
            self._link().note(ADDRESS, address)

    def _set(self) -> None:
        """The next of the lines that write the new address into the device."""
        self.show(self._link())  # what was typed since then counts
        if self._line >= len(self._lines):
            raise BadInput("type the address that the device shall have first, as in 192.0.2.10/24")
        link, last = self._link(), self._line + 1 == len(self._lines)
        self._note(self.pane.fields["device"].text().strip())  # what is stored is noted before it is changed
        link.say(self._lines[self._line])
        self._line += 1
        if last:
            self._note(self.pane.fields["wanted"].text().strip())
            self.pane.fields["wanted"].clear()
        self.pane.changed.emit()
