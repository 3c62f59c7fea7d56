"""The desk of the Port stage: the machine is watched while the stage is open; commands are shown and copied, never run."""

from functools import partial
from pathlib import Path

from msgspec.structs import replace
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QDialog, QFileDialog

from humble_courier.app.link.headlines import adapter_story, port_headline
from humble_courier.app.port.drivers import plan_for
from humble_courier.app.port.kernel_log import live_log
from humble_courier.app.port.label import LabelFor, label_for
from humble_courier.app.port.machine import Machine, PortRow, Seen, plug_events
from humble_courier.app.port.naming import rules_of
from humble_courier.app.port.numbers import needs_of, told
from humble_courier.ui.desk import StageDesk
from humble_courier.ui.paper.label import write_label
from humble_courier.ui.stages.port.log_dialog import LogDialog
from humble_courier.ui.stages.port.name_dialog import NameDialog
from humble_courier.ui.stages.port.numbers_dialog import NumbersDialog
from humble_courier.ui.stages.port.plan_dialog import PlanDialog
from humble_courier.ui.stages.port.port_watch import PortWatch
from humble_courier.ui.stages.port.stage import PortStage
from humble_courier.ui.workplace import Workplace


class PortDesk(StageDesk):
    """Everything of the Port stage that is not drawing."""

    def __init__(self, work: Workplace) -> None:
        self.stage = PortStage()
        super().__init__(self.stage, work)
        self.real = Machine(work.catalog, clock=work.clock)
        self.demo = work.machine
        self._simulated = Machine(work.catalog, self.demo.root, work.clock) if self.demo is not None else None
        self.dialog: QDialog | None = None
        self.watcher = PortWatch(self.stage, plug_events())
        self._connect()

    def _connect(self) -> None:
        """All connections of the stage, in one place."""
        stage = self.stage
        self.watcher.looked.connect(self._looked)
        self.work.opened.connect(stage.forget_typed)
        stage.chosen.connect(self._choose)
        stage.again.connect(self._watch)
        stage.marked.connect(lambda _: self._show_steps())
        stage.pulled.connect(self._pull)
        stage.machine_changed.connect(self._switch)
        stage.log_wanted.connect(self._log)
        stage.name_wanted.connect(self._name)
        stage.plan_wanted.connect(self._plan)
        stage.numbers_wanted.connect(self._numbers)
        stage.label_wanted.connect(self._label)
        stage.folded.connect(self._fold)
        stage.other_wanted.connect(self._open_other)
        stage.steps.copied.connect(self._copy)
        stage.steps.asked.connect(self._set_latency)

    @property
    def machine(self) -> Machine:
        """The machine that is looked at: the demo's first, where it is the demo."""
        return self._simulated or self.real

    _other: tuple[str, str] | None = None  # the link of the marked port

    def show(self) -> None:
        """The stage is open: look at once, then now and then."""
        link = self.link()
        self.machine.ours = (link.document.link.address or "").partition("?")[0]
        self.real.network = link.profiles.network(link.document.link.address or "")
        self.machine.refresh()
        self.watcher.start(self.machine)
        self._show()

    def rest(self) -> None:
        """The window goes: stop looking."""
        self.watcher.close()

    def _looked(self, seen: Seen) -> None:
        """A look beside the window is done."""
        if self.work.link is None or not self.stage.isVisible():
            self.watcher.stop()
            return
        self.machine.take(seen)
        self._show()

    def _watch(self) -> None:
        """Look at once: somebody asked."""
        self.machine.refresh()
        self._show()

    def _show(self) -> None:
        link, machine, stage = self.link(), self.machine, self.stage
        mark = "Simulated machine: " if machine.simulated else ""
        stage.say(*port_headline(link))
        which, _ = machine.headline()
        out = self.demo is not None and self.demo.pulled
        stage.show_machine(machine.rows(), f"{mark}{which}", machine.simulated, self.demo is not None, out)
        caution, _, opening = adapter_story(link)
        if not machine.simulated:
            opening = f"{link.profiles.told(machine.ports)} {opening}".strip()
        stage.show_link(link.document.link.address or "", caution, opening)
        self._show_steps()

    def _marked(self) -> PortRow | None:
        rows, at = self.machine.rows(), self.stage.ports.currentRow()
        return rows[at] if 0 <= at < len(rows) else None

    def _show_steps(self) -> None:
        row, theme = self._marked(), self.work.theme
        _, hint = self.machine.headline()
        if row is None:
            self.stage.show_offered("")
            self.stage.show_steps(hint, [], False, theme)
            return
        port = row.port
        ours, real = self.link().document.link.address, not self.machine.simulated
        self.stage.show_offered(port.address if port is not None and real and port.address != ours else "")
        self._other = self._link_of(row)
        self.stage.show_other(self._other[1] if self._other is not None else "")
        if port is not None:
            story = self.machine.story(port, self.link().profiles.old_latency(port))
            self.stage.show_steps(hint, story, port.usb is not None, theme)
        else:
            steps = self.machine.idle_story(row.idle) if row.idle else []
            self.stage.show_steps(hint, steps, False, theme)

    def _link_of(self, row: PortRow) -> tuple[str, str] | None:
        """Id and name of another link that was last opened with this very adapter."""
        if row.port is None or self.work.records is None:
            return None
        found = self.work.records.link_at(row.port)
        return found if found is not None and found[0] != self.link().id else None

    def _open_other(self) -> None:
        if self._other is not None:
            self.work.open(self._other[0])

    def _fold(self) -> None:
        self.machine.unfolded = not self.machine.unfolded
        self._show()

    def _choose(self, address: str) -> None:
        """Use a port for this link; which adapter it is, is kept with it, so that it is found again."""
        link = self.link()
        if not address:
            return
        port = next((p for p in self.machine.ports if p.address == address), None)

        def choose() -> None:
            document = link.document
            settings = document.link.computer_settings or document.link.device_settings
            if port is not None and not self.machine.simulated:
                link.profiles.chosen(port, str(settings or ""), self.work.clock.wall())
            link.change(replace(document.model, address=address))
            self.stage.forget_typed()

        self.work.do(choose)

    # The demo's plugs

    def _pull(self) -> None:
        row = self._marked()
        if self.demo is None:
            return
        if self.demo.pulled:
            self.demo.put_back()
        elif row is not None and row.port is not None and row.port.usb is not None:
            self.demo.pull(row.port.usb.path)
        elif row is not None and row.idle is not None:
            self.demo.pull(row.idle.path)
        self._watch()

    def _switch(self) -> None:
        if self.demo is not None:
            simulated = self._simulated is not None
            self._simulated = None if simulated else Machine(self.work.catalog, self.demo.root, self.work.clock)
            self.watcher.start(self.machine)
        self._watch()

    # Dialogs and paper

    def _log(self) -> None:
        text = self.demo.log if self.demo is not None and self.machine.simulated else ""
        self._open(LogDialog(self.stage, self.machine, text, live_log))

    def _plan(self) -> None:
        linux = self.work.preferences.laptop == "linux"
        self._open(PlanDialog(self.stage, partial(plan_for, self.work.catalog), linux, self.work.theme))

    def _name(self) -> None:
        row = self._marked()
        if row is not None and row.port is not None and row.port.usb is not None:
            rules = rules_of(row.port, self.machine.ports)
            by_serial = bool(row.port.usb.serial) and self.work.preferences.naming == "serial"
            self._open(NameDialog(self.stage, rules, by_serial, self._copy, self.work.theme))

    def _numbers(self) -> None:
        tell = partial(told, catalog=self.work.catalog)
        self._open(NumbersDialog(self.stage, needs_of(self.machine.ports), tell, self.work.theme))

    def _label(self) -> None:
        """Ask for a file and what the label is for, and print it."""
        kinds = {f"Label of the {what.value} (*.pdf)": what for what in LabelFor}
        chosen, kind = QFileDialog.getSaveFileName(self.stage, "Save a label", "label.pdf", ";;".join(kinds))
        if chosen:
            self.save_label(Path(chosen), kinds.get(kind, LabelFor.ADAPTER))

    def save_label(self, path: Path, what: LabelFor = LabelFor.ADAPTER) -> None:
        """Write a label of this link."""
        link = self.link()
        document = link.document
        self.work.do(lambda: write_label(label_for(document.link, document.name, link.profiles.profile, what), path))

    def _open(self, dialog: QDialog) -> None:
        self.dialog = dialog
        dialog.show()

    def _set_latency(self, ms: int) -> None:
        """Set the timer of the marked port, because somebody asked; the old value is kept in the record."""
        row, link = self._marked(), self.link()
        port = row.port if row is not None else None
        if port is None:
            return

        def set_it() -> None:
            old = self.machine.set_latency(port, ms)
            link.profiles.keep_latency(port, old, ms)
            told = f"Latency timer of {port.address} set to {ms} ms; it was {old} ms"
            link.ledger.measured(f"latency {port.name}", told)

        self.work.do(set_it)

    @staticmethod
    def _copy(text: str) -> None:
        board = QGuiApplication.clipboard()
        if board is not None:
            board.setText(text)
