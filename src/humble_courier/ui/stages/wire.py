"""Wire: does each conductor end where it should?"""

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from humble_courier.app.wiremap import WireMap
from humble_courier.catalog.models import ShapeEntry
from humble_courier.ui.faces import draw_face
from humble_courier.ui.parts import clear, label
from humble_courier.ui.stages.base import Stage
from humble_courier.ui.theme import Theme
from humble_courier.ui.wire_view import WireView
from humble_courier.units.hardware import Connector


class FaceView(QWidget):
    """One mating face with its name."""

    def __init__(self) -> None:
        super().__init__()
        self._shown: tuple[Connector, ShapeEntry | None, set[str], str, Theme] | None = None

    def show_face(self, connector: Connector, shape: ShapeEntry | None, used: set[str], name: str, theme: Theme) -> None:
        """Show a connector; `used` are the contacts that carry something."""
        self._shown = (connector, shape, used, name, theme)
        self.setAccessibleName(f"{name}: {connector}, contacts in use {', '.join(sorted(used))}")
        self.setFixedSize(QSize(theme.px(176), theme.px(104)))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the face."""
        if self._shown is None:
            return
        connector, shape, used, name, theme = self._shown
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if shape is not None:
            width = theme.px(120 if shape.contacts < 20 else 168)
            box = QRectF((self.width() - width) / 2, theme.px(18), width, theme.px(44))
            draw_face(painter, box, connector, shape, used, theme)
        painter.setFont(theme.font(11))
        painter.setPen(theme.color("quiet"))
        where = QRectF(0, theme.px(80), self.width(), theme.px(18))
        painter.drawText(where, Qt.AlignmentFlag.AlignCenter, f"{name}: {connector.gender}, mating face")
        painter.end()


class WireStage(Stage):
    """The conductor map, the mating faces, and the parts of the chain to exchange."""

    part_changed = pyqtSignal(int, str)  # index in the chain; an empty id takes the part out
    part_added = pyqtSignal(str)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.view = WireView(theme)
        self.column.addWidget(self.view, 1)
        self.story = label("", "", wrap=True)
        self.story.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self._near, self._far = FaceView(), FaceView()
        faces = QHBoxLayout()
        faces.addWidget(self._near)
        faces.addWidget(self.story, 1)
        faces.addWidget(self._far)
        self.column.addLayout(faces)
        self._parts = QHBoxLayout()
        self._parts.setSpacing(12)
        self.column.addLayout(self._parts)
        self.pickers: list[QComboBox] = []
        self.adder: QComboBox | None = None
        self._offered: object = None
        self.view.followed.connect(self._tell)
        self._idle_story = ""

    def show_wiring(
        self, wiring: WireMap, near: Connector, far: Connector, shapes: dict[tuple[str, int], ShapeEntry], theme: Theme
    ) -> None:
        """Show the map and the faces."""
        self.say(wiring.headline, wiring.reason)
        self.view.show_map(wiring, theme)
        for view, connector, contacts, name in (
            (self._near, near, wiring.near, self.tr("computer side")),
            (self._far, far, wiring.far, self.tr("device side")),
        ):
            used = {c.contact for c in contacts if wiring.nets[c.net].state != "idle"}
            view.show_face(connector, shapes.get((connector.family, connector.contacts)), used, name, theme)
        self._idle_story = next((n.story for n in wiring.nets if n.state == "bad"), "") or self.tr(
            "Point at a conductor, or press Up and Down, to follow it from end to end."
        )
        self.story.setText(self._idle_story)

    def _tell(self, text: str) -> None:
        self.story.setText(text or self._idle_story)

    def show_parts(self, chain: list[tuple[str, str, bool]], offered: list[tuple[str, str]]) -> None:
        """Offer the parts: `chain` holds (id, name, may be exchanged), `offered` all (id, name) of the catalog."""
        if self._offered == (chain, offered):
            return
        self._offered = (chain, offered)
        clear(self._parts)
        self.pickers = []
        for i, (id_, name, exchangeable) in enumerate(chain):
            if exchangeable:
                self._parts.addLayout(self._picker(i, id_, offered), 1)
            else:
                column = self._column(self.tr("Part {n}").format(n=i + 1))
                fixed = label(name)
                fixed.setMinimumHeight(32)
                fixed.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
                fixed.setToolTip(name)
                column.addWidget(fixed)
                self._parts.addLayout(column, 1)
        column = self._column(self.tr("Add before the device"))
        self.adder = self._combo([("", self.tr("nothing more")), *offered])
        self.adder.setAccessibleName(self.tr("Add a part before the device"))
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

    def _picker(self, index: int, id_: str, offered: list[tuple[str, str]]) -> QVBoxLayout:
        title = self.tr("Part {n}: exchange it here").format(n=index + 1)
        column = self._column(title)
        combo = self._combo([*offered, ("", self.tr("take this part out"))])
        combo.setCurrentIndex(combo.findData(id_))
        combo.setAccessibleName(title)
        combo.activated.connect(lambda i, combo=combo: self.part_changed.emit(index, combo.itemData(i)))
        self.pickers.append(combo)
        column.addWidget(combo)
        return column
