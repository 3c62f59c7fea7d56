"""What all stages are made of."""

from PyQt6.QtWidgets import QApplication, QLabel, QVBoxLayout, QWidget
from pytestqt.qtbot import QtBot

from humble_courier.ui.widgets.basics import clear


def test_what_is_taken_out_at_once_never_becomes_a_window(qtbot: QtBot) -> None:
    """A layout shows what is new to it a moment later; what has lost its parent by then would flash as a window."""
    holder = QWidget()
    layout = QVBoxLayout(holder)
    qtbot.addWidget(holder)
    holder.show()
    new = QLabel("for a moment")
    layout.addWidget(new)
    clear(layout)
    QApplication.processEvents()
    assert not new.isVisible()
