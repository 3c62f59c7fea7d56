"""Switches: from what is wanted to the picture of the bank, and from the bank as it is seen to what it says."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from humble_courier.app.settings.banks import BankView
from humble_courier.ui.stages.settings.bank_view import BankPicture
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, fill, label


class SwitchesPage(QWidget):
    """`wanted` gives a value, `seen` positions as typed, `turned` a switch, `adopted` takes what the bank says over."""

    bank_changed = pyqtSignal(str)
    variant_changed = pyqtSignal(str)
    wanted = pyqtSignal(str)
    seen = pyqtSignal(str)
    turned = pyqtSignal(int)
    photographed = pyqtSignal()
    adopted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.banks, self.variants, self.values = QComboBox(), QComboBox(), QComboBox()
        self.banks.setAccessibleName("Switch bank")
        self.variants.setAccessibleName("Revision of the device")
        self.values.setAccessibleName("What is wanted")
        self.values.setEditable(True)
        self.banks.activated.connect(lambda _: self.bank_changed.emit(self.banks.currentData()))
        self.variants.activated.connect(lambda _: self.variant_changed.emit(self.variants.currentData()))
        self.values.activated.connect(lambda _: self.wanted.emit(self.values.currentText()))
        line = self.values.lineEdit()
        if line is not None:
            line.returnPressed.connect(lambda: self.wanted.emit(self.values.currentText()))
        self.positions = QLineEdit()
        self.positions.setAccessibleName("Positions as seen, from switch 1 on")
        self.positions.setPlaceholderText("1,0,1,1  ·  on off on on")
        self.positions.returnPressed.connect(lambda: self.seen.emit(self.positions.text()))
        top = QHBoxLayout()
        for text, widget in (("Bank", self.banks), ("Revision", self.variants)):
            top.addWidget(label(text, "small"))
            top.addWidget(widget, 1)
        below = QHBoxLayout()
        for text, editor in (("Wanted", self.values), ("Or as seen", self.positions)):
            below.addWidget(label(text, "small"))
            below.addWidget(editor, 1)
        self.picture = BankPicture()
        self.picture.turned.connect(self.turned.emit)
        self.says, self.where = label("", "title", wrap=True), label("", "quiet", wrap=True)
        self.adopt = button("The device is set so", "main", self.adopted.emit, "Ctrl+T")
        self.tell = label("", "", wrap=True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.addLayout(top)
        for shown in (self.where, self.picture, self.says):
            column.addWidget(shown)
        column.addLayout(below)
        row = QHBoxLayout()
        row.addWidget(self.adopt)
        self.photo = button("Read a picture…", "", self.photographed.emit, "Ctrl+O")
        row.addWidget(self.photo)
        row.addStretch(1)
        column.addLayout(row)
        column.addWidget(self.tell)
        column.addStretch(1)

    def show_choices(self, banks: list[tuple[str, str]], variants: list[tuple[str, str]], bank: str, variant: str) -> None:
        """Banks and revisions to choose from, as (id, name)."""
        for box, items, chosen in ((self.banks, banks, bank), (self.variants, variants, variant)):
            if [box.itemData(i) for i in range(box.count())] != [id_ for id_, _ in items]:
                box.clear()
                fill(box, items, chosen)
            box.setCurrentIndex(box.findData(chosen))
            box.setEnabled(len(items) > 1)

    def show_bank(self, view: BankView, tell: str, may_adopt: bool, theme: Theme) -> None:
        """Show a bank: `tell` says by what the revision is told."""
        self.picture.show_bank(view, theme)
        self.photo.setEnabled(not view.bank.rotary and not view.bank.jumpers)
        self.positions.setPlaceholderText("3F" if view.bank.rotary else "1,0,1,1  ·  on off on on")
        way = "seen upside down: switch 1 is at the right, on looks down" if view.bank.upside_down else ""
        self.where.setText("; ".join(text for text in (view.bank.where, way) if text))
        said = "It says {what} {value}" if view.known else "{value}"
        self.says.setText(said.format(what=view.bank.codes, value=view.says))
        if [self.values.itemText(i) for i in range(self.values.count())] != list(view.choices):
            self.values.clear()
            self.values.addItems(list(view.choices))
        self.values.setCurrentText(view.says if view.known else "")
        self.adopt.setEnabled(may_adopt and view.known)
        self.tell.setText(tell)
