"""Wire: does each conductor end where it should? Six acts, one page each."""

from enum import StrEnum
from functools import partial

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QPushButton, QWidget

from humble_courier.ui.parts import ButtonGrid, Pages
from humble_courier.ui.parts import act as act_button
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
        group = QButtonGroup(self)
        self.acts: dict[Act, QPushButton] = {}
        self._pages: dict[Act, QWidget] = {}
        self.pages = Pages()
        for number, (act, (name, page)) in enumerate(names.items(), start=1):
            made = act_button(name, f"Ctrl+{number}", partial(self.choose, act))
            made.setCheckable(True)
            group.addButton(made)
            self.acts[act], self._pages[act] = made, page
            self.pages.addWidget(page)
        self.acts[Act.FOLLOW].setChecked(True)
        self.column.insertWidget(0, ButtonGrid(list(self.acts.values())))
        self.column.addWidget(self.pages, 1)

    def choose(self, act: Act) -> None:
        """Open the page of an act."""
        self.act = act
        self.acts[act].setChecked(True)
        self.pages.setCurrentWidget(self._pages[act])
        self.act_chosen.emit()
