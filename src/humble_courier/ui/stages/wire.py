"""Wire: does each conductor end where it should? Six acts, one page each."""

from enum import StrEnum

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QButtonGroup, QGridLayout, QPushButton, QSizePolicy, QWidget

from humble_courier.ui.parts import Pages
from humble_courier.ui.stages.base import Stage
from humble_courier.ui.theme import Theme
from humble_courier.ui.wire.build_page import BuildPage
from humble_courier.ui.wire.chain_page import ChainPage
from humble_courier.ui.wire.load_page import LoadPage
from humble_courier.ui.wire.map_page import MapPage
from humble_courier.ui.wire.meter_page import MeterPage
from humble_courier.ui.wire.volts_page import VoltsPage


class Act(StrEnum):
    """What one does about the wiring."""

    FOLLOW = "follow"
    CABLE = "cable"
    PORT = "port"
    CHOOSE = "choose"
    LOAD = "load"
    BUILD = "build"


class WireStage(Stage):
    """The pages and the row of acts. `act_chosen` fires after the page has changed."""

    act_chosen = pyqtSignal()

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.act = Act.FOLLOW
        self.map, self.meter, self.volts = MapPage(theme), MeterPage(theme), VoltsPage(theme)
        self.chains, self.load, self.build = ChainPage(theme), LoadPage(), BuildPage(theme)
        names = {
            Act.FOLLOW: (self.tr("Follow the wires"), self.map),
            Act.CABLE: (self.tr("Name a cable"), self.meter),
            Act.PORT: (self.tr("Name a port"), self.volts),
            Act.CHOOSE: (self.tr("Pick from the kit"), self.chains),
            Act.LOAD: (self.tr("Length and load"), self.load),
            Act.BUILD: (self.tr("Build a cable"), self.build),
        }
        self._row = QGridLayout()
        self._row.setSpacing(6)
        group = QButtonGroup(self)
        self.acts: dict[Act, QPushButton] = {}
        self._pages: dict[Act, QWidget] = {}
        self.pages = Pages()
        for number, (act, (name, page)) in enumerate(names.items(), start=1):
            made = QPushButton(f"{name}\nCtrl+{number}")
            made.setProperty("role", "act")
            made.setCheckable(True)
            made.setShortcut(f"Ctrl+{number}")
            made.setAccessibleName(name)
            made.clicked.connect(lambda _=False, act=act: self.choose(act))
            group.addButton(made)
            made.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            self.acts[act], self._pages[act] = made, page
            self.pages.addWidget(page)
        self.acts[Act.FOLLOW].setChecked(True)
        self._columns = 0
        self._lay_out_acts(len(self.acts))
        self.column.insertLayout(0, self._row)
        self.column.addWidget(self.pages, 1)

    def _lay_out_acts(self, columns: int) -> None:
        """The acts in so many columns: in a narrow window they take a second row."""
        if columns != self._columns:
            self._columns = columns
            for i, made in enumerate(self.acts.values()):
                self._row.addWidget(made, i // columns, i % columns)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """As many acts beside each other as can be read."""
        super().resizeEvent(event)
        widest = max(made.sizeHint().width() for made in self.acts.values()) + self._row.spacing()
        fitting = (self.width() - 40) // widest
        self._lay_out_acts(max(c for c in (1, 2, 3, 6) if c <= max(1, fitting)))

    def choose(self, act: Act) -> None:
        """Open the page of an act."""
        self.act = act
        self.acts[act].setChecked(True)
        self.pages.setCurrentWidget(self._pages[act])
        self.act_chosen.emit()
