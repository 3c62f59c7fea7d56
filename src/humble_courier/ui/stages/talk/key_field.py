"""A field whose keys go out as they are pressed, while it has the focus and something may be sent."""

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QKeySequence

from humble_courier.app.talk.keys import octets_of
from humble_courier.ui.widgets.basics import WrapLabel

_NAMES = {
    Qt.Key.Key_Return: "Enter", Qt.Key.Key_Enter: "Enter", Qt.Key.Key_Tab: "Tab", Qt.Key.Key_Escape: "Escape",
    Qt.Key.Key_Backspace: "Backspace", Qt.Key.Key_Delete: "Delete", Qt.Key.Key_Up: "Up", Qt.Key.Key_Down: "Down",
    Qt.Key.Key_Left: "Left", Qt.Key.Key_Right: "Right", Qt.Key.Key_Home: "Home", Qt.Key.Key_End: "End",
    Qt.Key.Key_PageUp: "Page Up", Qt.Key.Key_PageDown: "Page Down",
}  # fmt: skip
ENDS = Qt.Key.Key_F12  # disarms, as everywhere: the one key that is never sent
WAITS = "Click here, then each key goes out at once, Esc and Ctrl+C too; F12 disarms."
GOES = "Keys go out as they are pressed, Esc and Ctrl+C too. F12 disarms."


class KeyField(WrapLabel):
    """`typed` gives the bytes of a key. Takes keys before the shortcuts of the window do."""

    typed = pyqtSignal(bytes)

    def __init__(self) -> None:
        super().__init__(WAITS)
        self.setWordWrap(True)
        self.setAccessibleName("Keys go out as they are pressed")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setProperty("role", "keys")
        self.setMargin(8)

    def event(self, event: QEvent | None) -> bool:
        """Keys that the window knows are ours while we have the focus."""
        if event is not None and self.isEnabled():
            if event.type() is QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and event.key() != ENDS:
                event.accept()
                return True
            if event.type() is QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
                return self._press(event)
            if event.type() in (QEvent.Type.FocusIn, QEvent.Type.FocusOut):
                self.setText(GOES if event.type() is QEvent.Type.FocusIn else WAITS)
        return super().event(event)

    def _press(self, event: QKeyEvent) -> bool:
        key = Qt.Key(event.key())
        if key == ENDS:
            return False
        control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        name = _NAMES.get(key, QKeySequence(key).toString() if control else "")
        data = octets_of(name, event.text(), control)
        if data:
            self.typed.emit(data)
        return True
