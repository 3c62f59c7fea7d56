"""The window: puts the widgets together, hands them values from the workbench, and turns their intents into calls."""

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

import msgspec
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QCloseEvent, QKeySequence, QShortcut
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QMainWindow, QScrollArea, QVBoxLayout, QWidget

from humble_courier.app.link import choices
from humble_courier.app.link.changes import new_link
from humble_courier.app.link.places import Stage
from humble_courier.app.link.workbench import Workbench
from humble_courier.app.wire.tracing import preview
from humble_courier.catalog.load import Catalog
from humble_courier.documents.link_changes import with_settings
from humble_courier.domain.lines import Lines
from humble_courier.domain.settings import Settings
from humble_courier.errors import CourierError
from humble_courier.host.ports import list_ports
from humble_courier.ui.frame import FactsPanel, Foot, Header, Rail
from humble_courier.ui.help import show_help
from humble_courier.ui.stage import StageWidget as StageWidget
from humble_courier.ui.stages.devices.desk import DevicesDesk
from humble_courier.ui.stages.devices.stage import DevicesStage
from humble_courier.ui.stages.kit.desk import KitDesk
from humble_courier.ui.stages.kit.stage import KitStage
from humble_courier.ui.stages.new_link.stage import FirstLinkStage
from humble_courier.ui.stages.port.desk import PortDesk
from humble_courier.ui.stages.port.stage import PortStage
from humble_courier.ui.stages.prepare.stage import PrepareStage
from humble_courier.ui.stages.records.stage import RecordsStage
from humble_courier.ui.stages.settings.desk import SettingsDesk
from humble_courier.ui.stages.settings.stage import SettingsStage
from humble_courier.ui.stages.talk.desk import TalkDesk
from humble_courier.ui.stages.talk.stage import TalkStage
from humble_courier.ui.stages.wire.desk import WireDesk
from humble_courier.ui.stages.wire.stage import WireAct, WireStage
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import Pages, WrapLabel, set_role
from humble_courier.ui.widgets.icons import Icons
from humble_courier.ui.widgets.line_view import LineView

if TYPE_CHECKING:
    from humble_courier.records.store import Store

COMPLAINT_MS = 8000  # long enough to read one sentence twice
POLL_MS = 50  # how often the window looks at the session: twenty pictures a second follow a talker without a lag


class Window(QMainWindow):
    """The one window of the program."""

    def __init__(self, catalog: Catalog, theme: Theme) -> None:
        super().__init__()
        self.catalog, self.theme = catalog, theme
        self.store: Store | None = None
        self.bench: Workbench | None = None
        self.place, self.rail_place = "speech", "link"
        self.setWindowTitle("Humble Courier")
        self.header, self.line, self.rail = Header(), LineView(theme), Rail()
        self.facts, self.foot = FactsPanel(), Foot()
        self.wire, self.settings, self.talk = WireStage(theme), SettingsStage(), TalkStage()
        self.port, self.prepare = PortStage(), PrepareStage()
        self.records, self.first, self.kit = RecordsStage(), FirstLinkStage(), KitStage()
        self.devices = DevicesStage()
        self.devices_desk = DevicesDesk(self.devices, catalog, self._do)
        self.wire_desk = WireDesk(self.wire, catalog, self._do)
        self.settings_desk = SettingsDesk(self.settings, self._do)
        self.talk_desk = TalkDesk(self.talk, self._do, self.complain)
        self.kit_desk = KitDesk(self.kit, catalog, self._do)
        self.port_desk = PortDesk(self.port, catalog, self.complain)
        self.stages: dict[str, QWidget] = {
            Stage.WIRE: self.wire, Stage.SETTINGS: self.settings, Stage.TALK: self.talk, Stage.PORT: self.port,
            Stage.PREPARE: self.prepare, "records": self.records, "new": self.first, "kit": self.kit,
            "devices": self.devices,
        }  # fmt: skip
        self._build()
        self._connect()
        self._timer = QTimer(self)
        self._timer.setInterval(POLL_MS)
        self._timer.timeout.connect(self._poll)
        self._complaint: tuple[StageWidget, str] | None = None
        self._calm = QTimer(self)
        self._calm.setSingleShot(True)
        self._calm.setInterval(COMPLAINT_MS)
        self._calm.timeout.connect(self._calm_down)
        self._seen: tuple[int, int, bool] = (0, 0, False)
        self._icons = Icons()
        self.set_theme(theme)
        self.line.hide()
        self.facts.hide()

    def _build(self) -> None:
        self.stack = Pages()
        self.stack.setObjectName("stage")
        for stage in self.stages.values():
            self.stack.addWidget(stage)
        body = QHBoxLayout()
        body.setSpacing(0)
        # With large type a stage may need more room than the screen has: then it scrolls, and the window stays as it is.
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidget(self.stack)
        for widget, stretch in ((self.rail, 0), (scroll, 1), (self.facts, 0)):
            body.addWidget(widget, stretch)
        column = QVBoxLayout()
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.header)
        column.addWidget(self.line)
        column.addLayout(body, 1)
        column.addWidget(self.foot)
        centre = QWidget()
        centre.setLayout(column)
        self.setCentralWidget(centre)
        self.resize(1280, 800)

    def _connect(self) -> None:
        """All connections of the window, in one place."""
        self.line.chosen.connect(self.go_to)
        self.rail.chosen.connect(self.open_rail)
        self.header.undo.connect(lambda: self._do(self.bench.undo) if self.bench else None)
        self.header.help.connect(lambda: show_help(self, self.theme))
        self.header.palette_wanted.connect(lambda: self.set_theme(self.theme.next_palette()))
        self.facts.act.connect(self.act)
        self.foot.arm.connect(self.toggle_arm)
        self.wire.build.saved.connect(self._save_build)
        self.settings.ends.settings_changed.connect(self.change_settings)
        self.settings.ends.adopt.connect(self.adopt_settings)
        self.port.chosen.connect(self.choose_port)
        self.prepare.ticked.connect(lambda index, done: self._do(lambda: self._bench().tick(index, done)))
        self.first.made.connect(self.make_link)
        self.first.changed.connect(self.preview_link)
        self.records.open_link.connect(self.open_link)
        self.records.keep.connect(lambda: self._do(self._bench().keep_proof))
        self.records.pdf.connect(lambda: self._save("pdf"))
        self.records.svg.connect(lambda: self._save("svg"))
        self.records.json.connect(lambda: self._save("json"))
        for keys, step in (("Ctrl++", 0.1), ("Ctrl+=", 0.1), ("Ctrl+-", -0.1)):
            QShortcut(QKeySequence(keys), self, lambda step=step: self.set_theme(self.theme.scaled(self.theme.scale + step)))
        QShortcut(QKeySequence("Ctrl+0"), self, lambda: self.set_theme(self.theme.scaled(1.0)))
        QShortcut(QKeySequence("Ctrl+Shift+Z"), self, lambda: self._do(self.bench.redo) if self.bench else None)
        QShortcut(QKeySequence("Escape"), self, lambda: self.line.setFocus())

    # Values to the widgets

    def attach(self, store: "Store") -> None:
        """The records are open: show the link that was left open, or the way to a first one."""
        self.store = store
        link_id = store.setting("current-link")
        if link_id is not None and store.link(link_id) is not None:
            self.open_link(link_id)
            self.place = store.setting("place") or "speech"
        else:
            self.rail_place = "new"
        self.refresh()

    def open_link(self, link_id: str) -> None:
        """Put a kept link on the line."""
        if self.store is None:
            return
        if self.bench is not None:
            self.bench.stop()
        try:
            self.bench = Workbench(self.catalog, self.store, link_id)
        except CourierError as error:
            self.complain(error)
            return
        self.rail_place = "link"
        self._timer.start()
        self.refresh()
        self.line.setFocus()

    def _bench(self) -> Workbench:
        assert self.bench is not None, "only called where a link is on the line"
        return self.bench

    def set_theme(self, theme: Theme) -> None:
        """Colours and text size."""
        self.theme = theme
        self.setStyleSheet(theme.sheet(self._icons.arrow(theme.palette.quiet), self._icons.tick(theme.palette.on_action)))
        self.rail.setFixedWidth(theme.px(136))
        if self.store is not None:
            self.refresh()
        for wrapped in self.findChildren(WrapLabel):
            wrapped.claim()

    def refresh(self) -> None:
        """Hand the current values to all widgets."""
        bench = self.bench
        shown = self.rail_place if bench is None or self.rail_place != "link" else "link"
        self.rail.show_current(shown, bench is not None)
        on_link = bench is not None and shown == "link"
        self.line.setVisible(bench is not None)
        self.facts.setVisible(on_link)
        if bench is None:
            self.header.show_link(self.tr("Humble Courier"), self.tr("no link on the line"), can_undo=False)
            self.foot.show_state("", False, "", Lines())
        else:
            self._show_frame(bench)
        if on_link and bench is not None:
            stage = next((p.stage for p in bench.places() if p.id == self.place), Stage.TALK)
            self.stack.setCurrentWidget(self.stages[stage])
            self._show_stage(bench, stage)
        else:
            self.stack.setCurrentWidget(
                self.stages[shown if shown in ("records", "kit", "devices") and self.store else "new"]
            )
            self._show_rail_place(shown)
        self._show_complaint()

    def _show_frame(self, bench: Workbench) -> None:
        proven = self.tr("proven") if bench.evidence.proof_kept else self.tr("not yet proven")
        mark = self.tr("simulated bench, no real machine is touched · ") if bench.simulated else ""
        self.header.show_link(bench.name, f"{mark}{proven}", bench.can_undo)
        self.line.show_places(bench.places(), self.place if self.rail_place == "link" else "", self.theme)
        self.facts.show_facts(bench.facts(), self.theme)
        self.facts.show_next(bench.next_step())
        self._show_foot(bench)

    def _show_foot(self, bench: Workbench) -> None:
        session, ours = bench.session, bench.link.computer_settings
        armed_for = self.talk_desk.sending or ((session.armed_for or "") if session and bench.listening else "")
        port = (bench.link.address or self.tr("no port")).partition("?")[0]
        self.foot.show_state(armed_for, bench.listening, f"{port}  {ours.spoken if ours else ''}", bench.lines())

    def _show_stage(self, bench: Workbench, stage: Stage) -> None:
        if stage is Stage.WIRE:
            self.wire_desk.show(bench, self.theme)
        elif stage is Stage.SETTINGS:
            self.settings_desk.show(bench, self.theme)
        elif stage is Stage.TALK:
            self.talk_desk.show(bench, self.theme)
        elif stage is Stage.PORT:
            self.port_desk.show(bench, self.theme)
        else:
            self.prepare.show_sheet(bench.link.sheet, self.catalog.cautions, bench.ticked())

    def _show_rail_place(self, shown: str) -> None:
        if shown == "records" and self.store is not None:
            current = self.bench.link_id if self.bench else ""
            proofs = self.store.proofs(current) if current else []
            can_keep = self.bench is not None and self.bench.evidence.answered and self.bench.session is not None
            self.records.show_records(self.store.links(), current, proofs, can_keep)
        elif shown == "kit" and self.store is not None:
            self.kit_desk.show(self.store, self.bench)
        elif shown == "devices" and self.store is not None:
            self.devices_desk.show(self.theme)
        elif self.store is not None:
            kinds = (choices.adapters(self.catalog), choices.between(self.catalog), choices.devices(self.catalog))
            self.first.show_choices(list_ports(), *kinds, empty=not self.store.links())

    def _poll(self) -> None:
        bench = self.bench
        if bench is None:
            return
        try:
            news = bench.poll()
            self.talk_desk.poll()
        except CourierError as error:  # the record cannot be written: the session goes on, and it is said
            self.complain(error)
            return
        session = bench.session
        seen = (session.bytes_heard, len(session.utterances), bench.listening) if session else (0, 0, bench.listening)
        if news or seen != self._seen:
            self._seen = seen
            self.refresh()
        elif bench.listening:
            self._show_foot(bench)
            self.talk_desk.show_lines(bench)

    # Intents from the widgets

    def _do(self, act: Callable[[], object]) -> None:
        """Carry an act out; a mistake is told at the headline of the open stage, nothing is lost."""
        if self.store is None:
            return
        try:
            act()
        except CourierError as error:
            self.refresh()
            self.complain(error)
        else:
            self.refresh()

    def complain(self, error: CourierError) -> None:
        """One clear message at the place where it belongs: above the open stage."""
        stage = self.stack.currentWidget()
        if isinstance(stage, FirstLinkStage):
            stage.show_problem(str(error))
        elif isinstance(stage, StageWidget):
            self._complaint = (stage, str(error))
            self._calm.start()
            self._show_complaint()

    def _show_complaint(self) -> None:
        """A message stays for its time at its stage, however often the window is shown anew meanwhile."""
        if self._complaint is not None and self.stack.currentWidget() is self._complaint[0]:
            self._complaint[0].reason.setText(self._complaint[1])
            set_role(self._complaint[0].reason, "role", "wrong")

    def _calm_down(self) -> None:
        if self._complaint is not None:
            set_role(self._complaint[0].reason, "role", "quiet")
            self._complaint = None
            self.refresh()

    def go_to(self, place: str) -> None:
        """Open the stage of a place on the line."""
        self.place, self.rail_place = place, "link"
        if self.store is not None:
            self.store.remember("place", place)
        self.refresh()

    def open_rail(self, place: str) -> None:
        """Open one of the places that are not this link."""
        self.rail_place = place
        self.refresh()

    def change_settings(self, computer: bool, text: str) -> None:
        """Take other settings of one end."""

        def act() -> None:
            settings = Settings.parse(text)
            end = {"computer": settings} if computer else {"device": settings}
            self._bench().change(with_settings(self._bench().model, **end))

        self._do(act)

    def adopt_settings(self) -> None:
        """Open the computer's end as the device is set."""
        theirs = self._bench().link.device_settings
        if theirs is not None:
            self.change_settings(True, str(theirs))

    def choose_port(self, address: str) -> None:
        """Use a port for this link."""
        if address:
            self.port_desk.chosen(address)
            self._do(lambda: self._bench().change(msgspec.structs.replace(self._bench().model, address=address)))

    def preview_link(self, adapter: str, cable: str, device: str) -> None:
        """Judge what is picked for a new link, before it is made."""
        if device:
            model = new_link(device, [part for part in (adapter, cable) if part], None, self.catalog)
            self.first.show_preview(preview(model, self.catalog), self.theme)

    def make_link(self, name: str, address: str, adapter: str, cable: str, device: str) -> None:
        """Make a first link and put it on the line."""
        if self.store is None:
            return
        try:
            model = new_link(device, [part for part in (adapter, cable) if part], address or None, self.catalog)
            link_id = self.store.save_link(model, name or self.tr("Link without a name"))
        except CourierError as error:
            self.complain(error)
            return
        self.place = "part:1" if not adapter else "part:2"
        self.open_link(link_id)

    def toggle_arm(self) -> None:
        """Arm or disarm; a search or a proof that sends is stopped."""
        bench = self.bench
        if self.talk_desk.sending:
            self.talk_desk.cancel()
        elif bench is not None:
            self._do(bench.disarm if bench.armed else bench.arm)

    def act(self) -> None:
        """Do the recommended next thing."""
        bench = self._bench()
        step = bench.next_step()
        if step.action == "chain" and step.chain is not None:
            self._do(partial(bench.change, step.chain))
        elif step.action == "settings" and step.settings is not None:
            self._do(lambda: bench.change(with_settings(bench.model, computer=step.settings)))
        elif step.action == "say-first" and bench.link.sheet is not None:
            self._do(lambda: bench.say(bench.link.sheet.first_words[0].say))
        elif step.action == "sheet":
            self._save("pdf")
        elif step.action in ("listen", "arm", "keep-proof"):
            acts: dict[str, Callable[[], object]] = {
                "listen": bench.listen, "arm": bench.arm, "keep-proof": bench.keep_proof,
            }  # fmt: skip
            self._do(acts[step.action])
        elif step.action == "build":
            self.wire.choose(WireAct.BUILD)
            self.go_to("device-port")
        else:
            self.go_to(
                {"choose-port": "port", "show-wire": "device-port", "show-settings": "settings"}.get(step.action, "speech")
            )
            self.talk.listening.words.setFocus()
        if step.action in ("listen", "arm", "say-first"):
            self.go_to("speech")

    def _save_build(self, kind: str) -> None:
        """Ask for a file and write the build sheet."""
        filters = {"pdf": "PDF (*.pdf)", "svg": "SVG (*.svg)", "csv": "CSV (*.csv)"}
        chosen, _ = QFileDialog.getSaveFileName(self, self.tr("Save"), f"build-sheet.{kind}", filters[kind])
        if chosen:
            self._do(lambda: self.wire_desk.save_build(kind, Path(chosen)))

    def _save(self, kind: str) -> None:
        """Ask for a file and write the sheet, the drawing or the records."""
        filters = {"pdf": "PDF (*.pdf)", "svg": "SVG (*.svg)", "json": "JSON (*.json)"}
        chosen, _ = QFileDialog.getSaveFileName(self, self.tr("Save"), f"link.{kind}", filters[kind])
        if chosen:
            self.save_to(kind, Path(chosen))

    def save_to(self, kind: str, path: Path) -> None:
        """Write the sheet (`pdf`), the drawing (`svg`) or the records (`json`)."""
        from humble_courier.app.records.export import write_records
        from humble_courier.app.records.link_sheet import sheet
        from humble_courier.ui.paper.link_sheet import write_pdf, write_svg

        if self.store is None or self.bench is None:
            return
        try:
            proofs = self.store.proofs(self.bench.link_id)
            if kind == "json":
                write_records(self.store, path)
            elif kind == "svg":
                write_svg(self.bench.wire_map(), path)
            else:
                write_pdf(sheet(self.bench.link, self.catalog, proofs[-1] if proofs else None, self.bench.name), path)
        except CourierError as error:
            self.complain(error)

    def fail(self, error: CourierError) -> None:
        """The records cannot be opened: say so; there is nothing to show."""
        self.first.say(self.tr("The records cannot be opened"), str(error))
        self.first.create_button.setEnabled(False)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Close the port and let go of the records."""
        self._timer.stop()
        self._calm.stop()
        self.port_desk.rest()
        self.settings_desk.rest()
        self.talk_desk.rest()
        if self.bench is not None:
            self.bench.stop()
        if self.store is not None:
            self.store.close()
        self._icons.close()
        super().closeEvent(event)
