"""Name a cable by meter: which two contacts to touch, one key a reading, the suspects shrinking."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QVBoxLayout, QWidget

from humble_courier.ui.stages.wire.suspects_view import SuspectsView
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, fill, label
from humble_courier.ui.widgets.faces import Face, FaceView


class MeterPage(QWidget):
    """Readable from the bench: the touch is written large, the two faces show where."""

    said = pyqtSignal(bool)
    weak = pyqtSignal()
    took_back = pyqtSignal()
    began_anew = pyqtSignal()
    ends_changed = pyqtSignal(str, str)
    adopted = pyqtSignal()

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.first, self.second = QComboBox(), QComboBox()
        self.touch = label()
        self.touch.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.near, self.far = FaceView(300, 124), FaceView(300, 124)
        self.beeps = button("It beeps", "main", lambda: self.said.emit(True), "B")
        self.weakly = button("Beeps, > 5 ohm", "", self.weak.emit, "W")
        self.silent = button("Silent", "main", lambda: self.said.emit(False), "S")
        self.back = button("Undo", "", self.took_back.emit, "Backspace")
        self.anew = button("Another cable", "", self.began_anew.emit, "N")
        self.adopt = button("It lies here: note it", "", self.adopted.emit, "L")
        self.suspects = SuspectsView(theme)
        self.remarks = label("", "wrong", wrap=True)
        self._lay_out()
        for combo in (self.first, self.second):
            combo.activated.connect(lambda _: self.ends_changed.emit(self.first.currentData(), self.second.currentData()))

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        ends = QHBoxLayout()
        for text, combo in (("End A, as you see it", self.first), ("End B", self.second)):
            ends.addWidget(label(text, "small"))
            combo.setAccessibleName(text)
            ends.addWidget(combo, 1)
        ends.addWidget(self.anew)
        column.addLayout(ends)
        faces = QHBoxLayout()
        faces.addWidget(self.near, 3)
        faces.addWidget(self.touch, 2)
        faces.addWidget(self.far, 3)
        column.addLayout(faces)
        keys = QHBoxLayout()
        for made in (self.beeps, self.silent):
            made.setProperty("bulk", "large")
            keys.addWidget(made, 2)
        keys.addWidget(self.weakly, 1)
        keys.addWidget(self.back, 1)
        column.addLayout(keys)
        column.addWidget(self.suspects)
        column.addWidget(self.remarks)
        column.addWidget(self.adopt, 0, Qt.AlignmentFlag.AlignLeft)
        column.addStretch(1)

    def show_shapes(self, shapes: list[tuple[str, str]], ends: tuple[str, str]) -> None:
        """Offer the connectors as (id, name)."""
        for combo, chosen in ((self.first, ends[0]), (self.second, ends[1])):
            fill(combo, shapes, chosen)

    def show_touch(self, touch: tuple[str, str] | None, faces: tuple[Face | None, Face | None], theme: Theme) -> None:
        """Show which two contacts come next; None where nothing is left to ask."""
        self.touch.setText(f"{touch[0]}\nand\n{touch[1]}" if touch else "done")
        self.touch.setStyleSheet(f"font-size: {theme.px(28)}px; font-weight: bold;")
        spoken = f"Touch {touch[0]} and {touch[1]}" if touch else "Nothing left to touch"
        self.touch.setAccessibleName(spoken)
        self.near.show_face(faces[0], "end A", theme)
        self.far.show_face(faces[1], "end B", theme)
        for made in (self.beeps, self.silent, self.weakly):
            made.setEnabled(touch is not None)

    def show_said(self, rows: list[tuple[str, float]], remarks: list[str], count: int, named: bool, theme: Theme) -> None:
        """Show the suspects, what is odd, and whether the cable may be noted."""
        self.suspects.show_suspects(rows, theme)
        self.remarks.setText("\n".join(remarks))
        self.back.setEnabled(count > 0)
        self.adopt.setVisible(named)
