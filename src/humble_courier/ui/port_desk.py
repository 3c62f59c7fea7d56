"""The desk of the Port stage: the machine is watched while the stage is open; commands are shown and copied, never run."""

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import QTimer
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QDialog, QVBoxLayout

from humble_courier.app.demo_machine import DemoMachine
from humble_courier.app.drivers import plan_for
from humble_courier.app.headlines import adapter_story, port_headline
from humble_courier.app.machine import Machine, Row
from humble_courier.app.workbench import Workbench
from humble_courier.catalog.load import Catalog
from humble_courier.errors import CourierError
from humble_courier.host.live_log import live_log
from humble_courier.host.names import make_rule
from humble_courier.ui.log_dialog import LogDialog
from humble_courier.ui.parts import button, label
from humble_courier.ui.plan_dialog import PlanDialog
from humble_courier.ui.stages.port import PortStage
from humble_courier.ui.theme import Theme

WATCH_MS = 1000  # a plug is out for longer than a second
PLAIN_NAME = "adapter"


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
        self.timer = QTimer(stage)
        self.timer.setInterval(WATCH_MS)
        self._connect()

    def _connect(self) -> None:
        """All connections of the stage, in one place."""
        stage = self.stage
        self.timer.timeout.connect(self._watch)
        stage.again.connect(self._watch)
        stage.marked.connect(lambda _: self._show_steps())
        stage.pulled.connect(self._pull)
        stage.machine_changed.connect(self._switch)
        stage.log_wanted.connect(self._log)
        stage.name_wanted.connect(self._name)
        stage.plan_wanted.connect(self._plan)
        stage.steps.copied.connect(self._copy)

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
        self.machine.refresh()
        self.timer.start()
        self._show()

    def rest(self) -> None:
        """The stage is closed: stop looking."""
        self.timer.stop()

    def _watch(self) -> None:
        if self.bench is None or not self.stage.isVisible():
            self.timer.stop()
            return
        self.machine.refresh()
        self._show()

    def _show(self) -> None:
        bench = self.bench
        assert bench is not None
        machine, stage = self.machine, self.stage
        mark = self.stage.tr("Simulated machine: ") if machine.simulated else ""
        stage.say(*port_headline(bench))
        which, hint = machine.headline()
        out = self.demo is not None and self.demo.pulled
        stage.show_machine(machine.rows(), f"{mark}{which}", machine.simulated, self.demo is not None, out)
        stage.which.setToolTip(hint)
        caution, _, opening = adapter_story(bench)
        stage.show_link(bench.link.address or "", caution, opening)
        self._show_steps()

    def _marked(self) -> Row | None:
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
            self.stage.show_steps(hint, self.machine.story(port), port.usb is not None, self.theme)
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
        self._watch()

    def _log(self) -> None:
        text = self.demo.log if self.demo is not None and self.machine.simulated else ""
        self.dialog = LogDialog(self.stage, self.machine, text, live_log)
        self.dialog.show()

    def _plan(self) -> None:
        self.dialog = PlanDialog(self.stage, partial(plan_for, self.catalog), self.theme)
        self.dialog.show()

    def _name(self) -> None:
        row = self._marked()
        if row is None or row.port is None:
            return
        try:
            rule = make_rule(row.port, PLAIN_NAME, None, self.machine.ports)
        except CourierError as error:
            self._complain(error)
            return
        dialog = QDialog(self.stage)
        dialog.setWindowTitle(dialog.tr("A name that stays"))
        column = QVBoxLayout(dialog)
        column.addWidget(label(dialog.tr("{link} would lead to this port").format(link=rule.link), "headline", wrap=True))
        column.addWidget(label(rule.survives, "quiet", wrap=True))
        for command in rule.commands:
            column.addWidget(label(command, "mono", wrap=True))
        column.addWidget(
            label(dialog.tr("Shown, not run. Put another word in place of “adapter” if you like."), "quiet", wrap=True)
        )
        column.addWidget(
            button(dialog.tr("Copy the commands"), "main", lambda: self._copy("\n".join(rule.commands)), "Ctrl+C")
        )
        dialog.setMinimumWidth(self.theme.px(640))
        dialog.show()
        self.dialog = dialog

    @staticmethod
    def _copy(text: str) -> None:
        board = QGuiApplication.clipboard()
        if board is not None:
            board.setText(text)
