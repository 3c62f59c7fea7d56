"""Rows that go on in further rows: nothing is cut off, nothing lies on another, at any width."""

from itertools import combinations

import pytest
from PyQt6.QtWidgets import QLineEdit, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from humble_courier.ui.widgets.flow import FlowRow


@pytest.mark.parametrize("width", [120, 240, 380, 700, 1400])
def test_widgets_flow(qtbot: QtBot, width: int) -> None:
    field = QLineEdit()
    widgets: list[QWidget] = [QPushButton("Close the port"), field, QPushButton("Send a break"), QPushButton("Log")]
    row = FlowRow(widgets, wide=(field,))
    qtbot.addWidget(row)
    row.resize(width, 40)
    row.show()
    qtbot.waitExposed(row)
    row.resize(width, row.minimumHeight())
    places = [widget.geometry() for widget in widgets]
    assert all(not a.intersects(b) for a, b in combinations(places, 2))
    assert all(place.left() >= 0 and place.right() <= row.width() for place in places)
    assert max(place.bottom() for place in places) < row.minimumHeight() + 1
    if width == 1400:
        assert len({place.top() for place in places}) == 1 and field.width() > 800
    widgets[0].hide()
    row.fit()
    assert row.minimumSizeHint().width() <= max(widget.sizeHint().width() for widget in widgets)
