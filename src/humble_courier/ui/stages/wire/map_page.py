"""Follow the wires: the conductor map, both faces from the side one stands on, the parts to exchange."""

from collections.abc import Mapping

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from humble_courier.app.wire.wire_map import WireMap
from humble_courier.catalog.entries import ShapeEntry
from humble_courier.domain.hardware import Connector
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.basics import button, clear, label, plain_tip
from humble_courier.ui.widgets.faces import Face, FaceView, spoken_order
from humble_courier.ui.widgets.flow import FlowRow
from humble_courier.ui.widgets.wire_view import WireView
from humble_courier.wiring.orientation import Side

Shapes = Mapping[tuple[str, int], ShapeEntry]


class MapPage(QWidget):
    """The map and what belongs to it. `part_changed` gives the index in the chain; an empty id takes the part out."""

    part_changed = pyqtSignal(int, str)
    part_added = pyqtSignal(str)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.view = WireView(theme)
        self.story = label("", "", wrap=True)
        self.story.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.near, self.far = FaceView(), FaceView()
        self.side, self.turns = Side.MATING, 0
        self._faces: tuple[tuple[FaceView, Connector, frozenset[str], str], ...] = ()
        self._shapes: Shapes = {}
        self._theme = theme
        self.side_button = button("Other side", "", self._other_side, "V")
        self.turn_button = button("Turn about", "", self._turn, "T")
        self.pickers: list[QComboBox] = []
        self.adder: QComboBox | None = None
        self._offered: object = None
        self._idle_story = ""
        self._colours: tuple[tuple[str, str], ...] = ()
        self._lay_out()
        self.view.followed.connect(lambda text: self.story.setText(text or self._idle_story))

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        column.addWidget(self.view, 1)
        middle = QVBoxLayout()
        middle.addWidget(self.story, 1)
        keys = QHBoxLayout()
        keys.addStretch(1)
        keys.addWidget(FlowRow([self.side_button, self.turn_button]), 4)
        keys.addStretch(1)
        middle.addLayout(keys)
        faces = QHBoxLayout()
        faces.addWidget(self.near)
        faces.addLayout(middle, 3)
        faces.addWidget(self.far)
        column.addLayout(faces)
        self._parts = QHBoxLayout()
        self._parts.setSpacing(12)
        column.addLayout(self._parts)

    def show_map(
        self, wiring: WireMap, near: Connector, far: Connector, shapes: Shapes, theme: Theme,
        colours: Mapping[str, str] | None = None,
    ) -> None:  # fmt: skip
        """Show the map and the faces. `colours`: by contact of the device, of the loose conductors that go on it."""
        self._colours = tuple((colours or {}).items())
        self.view.show_map(wiring, theme)
        used = [
            frozenset(c.contact for c in side if wiring.nets[c.net].state != "idle") for side in (wiring.near, wiring.far)
        ]
        self._faces = (
            (self.near, near, used[0], "computer side"),
            (self.far, far, used[1], "device side"),
        )
        self._shapes, self._theme = shapes, theme
        self._show_faces()
        self._idle_story = (
            next((n.story for n in wiring.nets if n.state == "bad"), "")
            or "Point at a conductor, or press Up and Down, to follow it from end to end."
        )
        self.story.setText(self._idle_story)

    def _face(self, connector: Connector, shape: ShapeEntry, used: frozenset[str], far: bool) -> Face:
        return Face(connector, shape, used, side=self.side, turns=self.turns, colours=self._colours if far else ())

    def _show_faces(self) -> None:
        for view, connector, used, name in self._faces:
            shape = self._shapes.get((connector.family, connector.contacts))
            face = self._face(connector, shape, used, view is self.far) if shape else None
            view.show_face(face, name, self._theme)

    def _other_side(self) -> None:
        self.side = Side.SOLDER if self.side is Side.MATING else Side.MATING
        self._tell_order()

    def _turn(self) -> None:
        self.turns = (self.turns + 2) % 4
        self._tell_order()

    def _tell_order(self) -> None:
        """Show the faces anew, and say the order in which the eye meets the contacts of the device."""
        self._show_faces()
        if not self._faces:
            return
        _, connector, used, _ = self._faces[1]
        shape = self._shapes.get((connector.family, connector.contacts))
        if shape is not None:
            order = spoken_order(self._face(connector, shape, used, far=True))
            about = ", turned about" if self.turns else ""
            text = "Device side, {side}{about}: from the left {order}"
            self.story.setText(text.format(side=self.side, about=about, order=order))

    def show_parts(self, chain: list[tuple[str, str, bool]], offered: list[tuple[str, str]]) -> None:
        """Offer the parts: `chain` holds (id, name, may be exchanged), `offered` all (id, name) of the catalog."""
        if self._offered == (chain, offered):
            return
        self._offered = (chain, offered)
        clear(self._parts)
        self.pickers = []
        for i, (id_, name, exchangeable) in enumerate(chain):
            if exchangeable:
                self._parts.addLayout(self._picker(i, id_, name, offered), 1)
            else:
                column = self._column(f"Part {i + 1}")
                fixed = label(name)
                fixed.setMinimumHeight(32)
                fixed.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
                fixed.setToolTip(plain_tip(name))
                column.addWidget(fixed)
                self._parts.addLayout(column, 1)
        column = self._column("Add before the device")
        self.adder = self._combo([("", "nothing more"), *offered])
        self.adder.setAccessibleName("Add a part before the device")
        self.adder.activated.connect(lambda i: self.part_added.emit(offered[i - 1][0]) if i else None)
        column.addWidget(self.adder)
        self._parts.addLayout(column, 1)

    def _column(self, title: str) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(2)
        column.addWidget(label(title, "small"))
        return column

    def _combo(self, items: list[tuple[str, str]]) -> QComboBox:
        combo = QComboBox()
        combo.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        combo.setMinimumContentsLength(8)
        for id_, text in items:
            combo.addItem(text, id_)
        return combo

    def _picker(self, index: int, id_: str, name: str, offered: list[tuple[str, str]]) -> QVBoxLayout:
        title = f"Part {index + 1}: exchange it here"
        column = self._column(title)
        own = [] if id_ in dict(offered) else [(id_, name)]  # a lead of one's own is in no catalog
        combo = self._combo([*own, *offered, ("", "take this part out")])
        combo.setCurrentIndex(combo.findData(id_))
        combo.setAccessibleName(title)
        combo.activated.connect(lambda i, combo=combo: self._picked(index, id_, combo.itemData(i)))
        self.pickers.append(combo)
        column.addWidget(combo)
        return column

    def _picked(self, index: int, now: str, wanted: str) -> None:
        if wanted != now:
            self.part_changed.emit(index, wanted)
