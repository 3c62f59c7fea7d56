"""A device as one meets it: each of its ports drawn, with what its contacts carry, and what it says when asked."""

from dataclasses import dataclass

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from humble_courier.documents.device import DevicePort
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import clear, label
from humble_courier.ui.widgets.faces import Face, FaceView


@dataclass(frozen=True)
class DrawnPort:
    """A port with its face; None for a connector whose shape nobody has drawn."""

    port: DevicePort
    face: Face | None


class PortsView(QScrollArea):
    """Ports below each other, then the first words with their answers."""

    def __init__(self) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setAccessibleName("Ports of the device")
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        inner = QWidget()
        inner.setObjectName("lanes")
        self._column = QVBoxLayout(inner)
        self._column.setContentsMargins(0, 0, 14, 0)
        self.setWidget(inner)

    def show_ports(self, ports: list[DrawnPort], words: list[tuple[str, str]], theme: Theme) -> None:
        """`words`: what is said to it, and what it answers."""
        clear(self._column)
        for drawn in ports:
            self._port(drawn, theme)
        if words:
            self._column.addWidget(label("Asked, it answers", "title"))
        for say, answer in words:
            self._column.addWidget(label(say, "words", wrap=True))
            self._column.addWidget(label(answer, "", wrap=True))
        self._column.addStretch(1)

    def _port(self, drawn: DrawnPort, theme: Theme) -> None:
        port = drawn.port
        self._column.addWidget(label(f"{port.name}, {port.settings.replace(',', ' ')}", "title", wrap=True))
        told = f"marked {port.mark}" + (f"; not {port.beside}" if port.beside else "")
        self._column.addWidget(label(told, "quiet", wrap=True))
        if drawn.face is not None:
            view = FaceView(260, 128)
            view.show_face(drawn.face, port.name, theme)
            self._column.addWidget(view)
        carried = " · ".join(f"{contact} {' '.join(signal.split()[:2])}" for contact, signal in port.signals.items())
        self._column.addWidget(label(carried, "", wrap=True))
        words = [signal.split() for signal in port.signals.values()]
        levels = sorted({one[2].upper().replace("RS", "RS-") for one in words if len(one) > 2})
        if levels:
            self._column.addWidget(label(f"Seen from the device; its signals are {', '.join(levels)}.", "small", wrap=True))
        self._column.addSpacing(10)
