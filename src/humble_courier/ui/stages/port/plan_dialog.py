"""The driver plan for the laptop that will do the job: three facts, and the steps in their order."""

from collections.abc import Callable

from PyQt6.QtWidgets import QCheckBox, QDialog, QHBoxLayout, QVBoxLayout, QWidget

from humble_courier.app.port.drivers import DriverStep, Laptop
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, clear, label


class PlanDialog(QDialog):
    """Boxes on top, steps below; they follow the boxes."""

    def __init__(self, parent: QWidget, plan: Callable[[Laptop], tuple[DriverStep, ...]], linux: bool, theme: Theme) -> None:
        """`linux`: whether that laptop runs it, as long as nobody says otherwise."""
        super().__init__(parent)
        self._plan = plan
        self.setWindowTitle("Driver plan")
        self.setMinimumWidth(theme.px(680))
        column = QVBoxLayout(self)
        column.addWidget(label("For the laptop that will do the job", "headline"))
        self.linux = QCheckBox("It runs Linux")
        self.administrator = QCheckBox("You have administrator rights there")
        self.signed = QCheckBox("It takes signed drivers only")
        self.administrator.setChecked(True)
        self.linux.setChecked(linux)
        row = QHBoxLayout()
        for box in (self.linux, self.administrator, self.signed):
            box.toggled.connect(lambda _: self._tell())
            row.addWidget(box)
        column.addLayout(row)
        self.steps = QVBoxLayout()
        column.addLayout(self.steps)
        column.addWidget(button("Close", "main", self.close, "Esc"))
        self._tell()

    def _tell(self) -> None:
        clear(self.steps)
        laptop = Laptop(self.linux.isChecked(), self.administrator.isChecked(), self.signed.isChecked())
        for number, step in enumerate(self._plan(laptop), start=1):
            self.steps.addWidget(label(f"{number}. {step.do}", "title", wrap=True))
            self.steps.addWidget(label(step.why, "quiet", wrap=True))
