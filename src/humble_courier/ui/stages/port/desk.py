"""The desk of the Port stage: the machine is watched while the stage is open; commands are shown and copied, never run."""

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QDialog, QFileDialog

from humble_courier.app.demo.machine import DemoMachine
from humble_courier.app.link.headlines import adapter_story, port_headline
from humble_courier.app.link.workbench import Workbench
from humble_courier.app.port.drivers import plan_for
from humble_courier.app.port.label import port_label
from humble_courier.app.port.machine import Machine, PortRow, Seen
from humble_courier.app.port.numbers import NumberNeed, told
from humble_courier.app.port.profiles import (
    NETWORK,
    keep_latency,
    load_profile,
    network_addresses,
    old_latency,
    profile_of,
    save_profile,
    told_again,
)
from humble_courier.catalog.load import Catalog
from humble_courier.errors import CourierError
from humble_courier.host.kinds import PortKind
from humble_courier.host.live_log import live_log
from humble_courier.host.plug_events import plug_events
from humble_courier.ui.paper.label import write_label
from humble_courier.ui.stages.port.log_dialog import LogDialog
from humble_courier.ui.stages.port.name_dialog import NameDialog
from humble_courier.ui.stages.port.numbers_dialog import NumbersDialog
from humble_courier.ui.stages.port.plan_dialog import PlanDialog
from humble_courier.ui.stages.port.port_watch import PortWatch
from humble_courier.ui.stages.port.stage import PortStage
from humble_courier.ui.theme import Theme


class PortDesk:
    """Everything of the Port stage that is not drawing."""

    def __init__(self, stage: PortStage, catalog: Catalog, complain: Callable[[CourierError], None]) -> None:
        self.stage, self.catalog, self._complain = stage, catalog, complain
        self.real = Machine(catalog)
        self.demo: DemoMachine | None = None
        self._simulated: Machine | None = None
        self.bench: Workbench | None = None
        self.theme = Theme()
        self.dialog: QDialog | None = None
        self.watcher = PortWatch(stage, plug_events())
        self._connect()

    def _connect(self) -> None:
        """All connections of the stage, in one place."""
        stage = self.stage
        self.watcher.looked.connect(self._looked)
        stage.again.connect(self._watch)
        stage.marked.connect(lambda _: self._show_steps())
        stage.pulled.connect(self._pull)
        stage.machine_changed.connect(self._switch)
        stage.log_wanted.connect(self._log)
        stage.name_wanted.connect(self._name)
        stage.plan_wanted.connect(self._plan)
        stage.numbers_wanted.connect(self._numbers)
        stage.label_wanted.connect(self._label)
        stage.steps.copied.connect(self._copy)
        stage.steps.asked.connect(self._set_latency)

    @property
    def machine(self) -> Machine:
        """The machine that is looked at."""
        return self._simulated or self.real

    def simulate(self, demo: DemoMachine) -> None:
        """Look at the demo's machine first."""
        self.demo = demo
        self._simulated = Machine(self.catalog, demo.root)

    def show(self, bench: Workbench, theme: Theme) -> None:
        """The stage is open: look at once, then every second."""
        self.bench, self.theme = bench, theme
        addresses = {bench.link.address or "", *network_addresses(bench.store)}
        self.real.network = tuple(sorted(a for a in addresses if a.startswith(NETWORK)))
        self.machine.refresh()
        self.watcher.start(self.machine)
        self._show()

    def rest(self) -> None:
        """The window goes: stop looking."""
        self.watcher.close()

    def _looked(self, seen: Seen) -> None:
        """A look beside the window is done."""
        if self.bench is None or not self.stage.isVisible():
            self.watcher.stop()
            return
        self.machine.take(seen)
        self._show()

    def _watch(self) -> None:
        """Look at once: somebody asked."""
        self.machine.refresh()
        self._show()

    def _show(self) -> None:
        bench = self.bench
        assert bench is not None
        machine, stage = self.machine, self.stage
        mark = self.stage.tr("Simulated machine: ") if machine.simulated else ""
        stage.say(*port_headline(bench))
        which, _ = machine.headline()
        out = self.demo is not None and self.demo.pulled
        stage.show_machine(machine.rows(), f"{mark}{which}", machine.simulated, self.demo is not None, out)
        caution, _, opening = adapter_story(bench)
        if not machine.simulated:
            again = told_again(load_profile(bench.store, bench.link_id), machine.ports)
            opening = f"{again} {opening}".strip()
        stage.show_link(bench.link.address or "", caution, opening)
        self._show_steps()

    def _marked(self) -> PortRow | None:
        rows, at = self.machine.rows(), self.stage.ports.currentRow()
        return rows[at] if 0 <= at < len(rows) else None

    def _show_steps(self) -> None:
        row = self._marked()
        _, hint = self.machine.headline()
        if row is None:
            self.stage.show_steps(hint, [], False, self.theme)
            return
        port = row.port
        if port is not None:
            story = self.machine.story(port, old_latency(self.bench.store, port) if self.bench else None)
            self.stage.show_steps(hint, story, port.usb is not None, self.theme)
            if not self.machine.simulated:
                self.stage.address.setText(port.address)
        else:
            steps = self.machine.idle_story(row.idle) if row.idle else []
            self.stage.show_steps(hint, steps, False, self.theme)

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
            self._simulated = None if self._simulated is not None else Machine(self.catalog, self.demo.root)
            self.watcher.start(self.machine)
        self._watch()

    def _log(self) -> None:
        text = self.demo.log if self.demo is not None and self.machine.simulated else ""
        self._open(LogDialog(self.stage, self.machine, text, live_log))

    def _plan(self) -> None:
        self._open(PlanDialog(self.stage, partial(plan_for, self.catalog), self.theme))

    def _name(self) -> None:
        row = self._marked()
        if row is not None and row.port is not None and row.port.usb is not None:
            self._open(NameDialog(self.stage, row.port, self.machine.ports, self._copy, self.theme))

    def _numbers(self) -> None:
        adapters = [p for p in self.machine.ports if p.kind in (PortKind.USB, PortKind.NATIVE)]
        needs = [NumberNeed(p.address, at, 0) for at, p in enumerate(adapters, start=1)]
        self._open(NumbersDialog(self.stage, needs, partial(told, catalog=self.catalog), self.theme))

    def _label(self) -> None:
        """Ask for a file and print the label of this link's adapter."""
        chosen, _ = QFileDialog.getSaveFileName(self.stage, self.stage.tr("Save"), "label.pdf", "PDF (*.pdf)")
        if chosen:
            self.save_label(Path(chosen))

    def save_label(self, path: Path) -> None:
        """Write the label of this link's adapter."""
        bench = self.bench
        assert bench is not None
        try:
            write_label(port_label(bench.link, bench.name, load_profile(bench.store, bench.link_id)), path)
        except CourierError as error:
            self._complain(error)

    def _open(self, dialog: QDialog) -> None:
        self.dialog = dialog
        dialog.show()

    def chosen(self, address: str) -> None:
        """A port was chosen for the link: its profile is kept, so that the adapter is found again."""
        bench = self.bench
        port = next((p for p in self.machine.ports if p.address == address), None)
        if bench is None or port is None or self.machine.simulated:
            return
        settings = bench.link.computer_settings or bench.link.device_settings
        save_profile(bench.store, bench.link_id, profile_of(port, str(settings or "")))

    def _set_latency(self, ms: int) -> None:
        """Set the timer of the marked port, because somebody asked; the old value is kept in the record."""
        row, bench = self._marked(), self.bench
        if row is None or row.port is None or bench is None:
            return
        try:
            old = self.machine.set_latency(row.port, ms)
            keep_latency(bench.store, row.port, old, ms)
            bench.measured(
                f"latency {row.port.name}", f"Latency timer of {row.port.address} set to {ms} ms; it was {old} ms"
            )
        except CourierError as error:
            self._complain(error)
            return
        self._watch()

    @staticmethod
    def _copy(text: str) -> None:
        board = QGuiApplication.clipboard()
        if board is not None:
            board.setText(text)
