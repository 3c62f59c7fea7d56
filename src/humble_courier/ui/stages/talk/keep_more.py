"""The rest of a device that is kept: where it is set, its switches, revisions and ports, what its program wants."""

from collections.abc import Callable, Sequence
from functools import partial

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from humble_courier.app.link import keeping_more as further
from humble_courier.app.link.keeping import Draft
from humble_courier.app.link.keeping_more import CODES, KINDS, MOST_SWITCHES, SETTINGS
from humble_courier.app.settings.banks import view
from humble_courier.documents.device import DeviceEntry, SwitchBank
from humble_courier.ui.stages.settings.bank_view import BankPicture
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, clear, label
from humble_courier.ui.widgets.flow import FlowRow

Line = tuple[str, Callable[..., Draft] | None, tuple[object, ...]]  # words, what the press does, with which values
PORTS = ("D 9 socket", "D 9 plug", "D 25 socket", "D 25 plug", "8P8C 8 socket", "terminal 5 plug", "header 4 plug")
FEWEST = 3  # switches that a new drawing begins with


def field(name: str, hint: str) -> QLineEdit:
    """A field with its name for a reader and its hint."""
    made = QLineEdit()
    made.setAccessibleName(name)
    made.setPlaceholderText(hint)
    return made


class KeepMore(QWidget):
    """`changed` gives a change of `keeping_more` that wants but the draft."""

    changed = pyqtSignal(object)
    port_wanted = pyqtSignal(str, str, str)  # a further port: its name, its mark, its connector in words

    def __init__(self) -> None:
        super().__init__()
        self._theme, self._positions = Theme(), [0] * FEWEST
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 8, 0, 0)
        for part in (self._set_in(), self._switches(), self._revisions(), self._ports(), self._program()):
            column.addLayout(part)
        column.addStretch(1)

    def _titled(self, title: str) -> tuple[QVBoxLayout, QVBoxLayout]:
        """A part with its title, and the place where its lines stand."""
        part, lines = QVBoxLayout(), QVBoxLayout()
        part.addWidget(label(title, "title", wrap=True))
        part.addLayout(lines)
        return part, lines

    def _set_in(self) -> QVBoxLayout:
        part, self.places = self._titled("Where each setting is set")
        self.what, self.kind, self.how = QComboBox(), QComboBox(), field("How it is set", "how, as in: menu Setup, Serial")
        self.what.addItems(SETTINGS)
        self.kind.addItems(KINDS)
        self.what.setAccessibleName("Setting")
        self.kind.setAccessibleName("Set by")
        self.how.returnPressed.connect(self._place)
        part.addWidget(FlowRow([self.what, self.kind, self.how, button("Note it", "", self._place)], wide=(self.how,)))
        return part

    def _place(self) -> None:
        self._tell(further.with_set_in, self.what.currentText(), self.kind.currentText(), self.how.text())
        self.how.clear()

    def _switches(self) -> QVBoxLayout:
        part, self.banks = self._titled("Its switches: draw a position as they stand, say what it means")
        self.picture, self.count = BankPicture(), QComboBox()
        self.picture.turned.connect(self._turn)
        for many in range(1, MOST_SWITCHES + 1):
            self.count.addItem("1 switch" if many == 1 else f"{many} switches", many)
        self.count.setCurrentIndex(FEWEST - 1)
        self.count.setAccessibleName("How many switches the bank has")
        self.count.currentIndexChanged.connect(lambda _: self._resize(self.count.currentData()))
        self.where = field("Where the bank is", "where, as in: behind the lid")
        self.codes, self.means = QComboBox(), field("What this position means", "9600")
        self.codes.addItems(CODES)
        self.codes.setAccessibleName("What the bank codes")
        self.means.returnPressed.connect(self._position)
        part.addWidget(FlowRow([self.count, self.where], wide=(self.where,)))
        part.addWidget(self.picture)
        keep = button("Keep this position", "", self._position)
        part.addWidget(FlowRow([label("so it says", "small"), self.codes, self.means, keep], wide=(self.means,)))
        return part

    def _resize(self, count: int) -> None:
        self._positions = (self._positions + [0] * count)[:count]
        self._draw()

    def _turn(self, number: int) -> None:
        self._positions[number - 1] = 1 - self._positions[number - 1]
        self._draw()

    def _draw(self) -> None:
        many = len(self._positions)
        bank = SwitchBank(
            id="S", where=self.where.text() or "bank", codes="rate", width=many, table={"1" * many: "not known"}
        )
        self.picture.show_bank(view(bank, self._positions), self._theme)

    def _position(self) -> None:
        drawn = "".join(map(str, self._positions))
        self._tell(further.with_position, self.where.text(), self.codes.currentText(), drawn, self.means.text())

    def _revisions(self) -> QVBoxLayout:
        part, self.variants = self._titled("Revisions: this one, set as the link is now, is told by")
        self.tell_by = field("How this revision is told", "as in: the plate says revision B")
        self.edition = field("Its manual", "edition of its manual")
        add = button("Note the revision", "", self._revision)
        self.tell_by.returnPressed.connect(self._revision)
        part.addWidget(FlowRow([self.tell_by, self.edition, add], wide=(self.tell_by, self.edition)))
        return part

    def _revision(self) -> None:
        self._tell(further.with_revision, self.tell_by.text(), self.edition.text())

    def _ports(self) -> QVBoxLayout:
        part, self.ports = self._titled("Its ports, the one in use marked")
        self.port_name, self.mark = (
            field("Name of a further port", "a further port, as in: Bus"),
            field("Mark", "mark beside it"),
        )
        self.connector = QComboBox()
        self.connector.addItems(PORTS)
        self.connector.setEditable(True)  # one of one's own is said by its rows: bayonet(3,4) plug
        self.connector.setAccessibleName("Connector of the further port")
        add = button("Note the port", "", self._port)
        part.addWidget(FlowRow([self.port_name, self.mark, self.connector, add], wide=(self.port_name, self.mark)))
        return part

    def _port(self) -> None:
        self.port_wanted.emit(self.port_name.text(), self.mark.text(), self.connector.currentText())

    def _program(self) -> QVBoxLayout:
        part, self.wants = self._titled("Its usual program, adapters, and what must not be used")
        self.systems, self.bits = field("Systems it runs on", "runs on"), field("Bits of the system", "bits: 32")
        self.highest, self.fixed = (
            field("Highest port", "ports up to"),
            field("Settings it cannot change", "always 9600,8N1"),
        )
        fields = [self.systems, self.bits, self.highest, self.fixed]
        part.addWidget(FlowRow([*fields, button("Note it", "", self._wants)], wide=tuple(fields)))
        self.module, self.good = field("Kernel module of an adapter", "adapter, as in ftdi_sio"), QComboBox()
        self.good.addItems(["works with it", "does not work"])
        self.good.setAccessibleName("Whether the adapter works")
        part.addWidget(FlowRow([self.module, self.good, button("Note the adapter", "", self._adapter)], wide=(self.module,)))
        self.never, self.why = (
            field("What must not be used", "not: the card slot"),
            field("Why", "why: only its own cards read"),
        )
        row = [self.never, self.why, button("Note that", "", self._forbidden)]
        part.addWidget(FlowRow(row, wide=(self.never, self.why)))
        return part

    def _wants(self) -> None:
        self._tell(further.with_program, self.systems.text(), self.bits.text(), self.highest.text(), self.fixed.text())

    def _adapter(self) -> None:
        self._tell(further.with_adapter, self.module.text(), self.good.currentIndex() == 0)

    def _forbidden(self) -> None:
        self._tell(further.with_forbidden, self.never.text(), self.why.text())

    def _tell(self, change: Callable[..., Draft], *values: object) -> None:
        def changed(now: Draft) -> Draft:
            return change(now, *values)

        self.changed.emit(changed)

    def show_sheet(self, sheet: DeviceEntry, theme: Theme) -> None:
        """What is known of all this, each line with the press that takes it away."""
        self._theme = theme
        self._draw()
        port = sheet.port
        self._lines(
            self.places,
            [(f"{what}: {p.kind}, {p.how}", further.with_set_in, (what, p.kind, "")) for what, p in port.set_in.items()],
        )
        banks = [
            (
                f"{bank.where}: {', '.join(f'{drawn} = {said}' for drawn, said in bank.table.items())}",
                further.without_bank,
                (bank.id,),
            )
            for bank in sheet.banks
        ]
        self._lines(self.banks, banks)
        self._lines(
            self.variants,
            [(f"{v.tell}: {v.settings or 'as above'}", further.without_revision, (v.id,)) for v in sheet.variants],
        )
        ports: list[Line] = [(f"{port.name}, marked {port.mark}: in use", None, ())]
        ports += [(f"{one.name}, marked {one.mark}", further.in_use, (one.id,)) for one in sheet.other_ports]
        self._lines(self.ports, ports, "In use")
        adapters = [f"{one.module} {'works' if one.works else 'does not work'}" for one in sheet.adapters]
        told = [*adapters, *(f"not {one.what}: {one.why}" for one in sheet.forbidden), *_wanted(sheet)]
        self._lines(self.wants, [(line, None, ()) for line in told])

    def _lines(self, into: QVBoxLayout, lines: Sequence[Line], press: str = "Take out") -> None:
        clear(into)
        for text, change, values in lines:
            row = QHBoxLayout()
            row.addWidget(label(text, "", wrap=True), 1)
            if change is not None:
                made = button(press, "", partial(self._tell, change, *values))
                made.setAccessibleName(f"{press}: {text}")
                row.addWidget(made)
            into.addLayout(row)


def _wanted(sheet: DeviceEntry) -> list[str]:
    """What the program wants, in lines."""
    program = sheet.program
    lines = [f"its program runs on {', '.join(program.systems)}"] if program.systems else []
    lines += [f"it wants a system of {program.bits} bits"] if program.bits else []
    lines += [f"it takes ports up to {program.highest_port}"] if program.highest_port else []
    return lines + ([f"it always opens {program.settings}"] if program.settings else [])
