"""Under the line, where it is probably broken: the belief in the causes of each place, as an area with its number."""

from typing import TYPE_CHECKING

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent

from humble_courier.app.link.stages import Drawn, Place, Stage
from humble_courier.ui.theme import Theme
from humble_courier.ui.widgets.pieces import Pieces

if TYPE_CHECKING:
    from humble_courier.app.diagnose.advice import Advice

HIGH = 62  # pixels at 100 %
SHOWN = 0.01  # share from which a place is named where the line is not above it
NAMED, LEADING = 0.10, 0.25  # shares from which the likeliest cause is named, and the area is drawn as leading
SMALLEST, LARGEST = (16, 6), (104, 22)  # pixels at 100 %: of an area of 0 and of 1


class BeliefStrip(Pieces):
    """Places from left to right stand where the line has them."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self._theme = theme
        self._spots: list[tuple[float, float, float, str]] = []  # middle, room, share, words
        self.setObjectName("line")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)

    def show_belief(
        self,
        advice: "Advice",
        places: list[Place],
        middles: dict[str, tuple[float, float]],
        theme: Theme,
        alone: bool = False,
    ) -> None:
        """`middles`: middle and width of each place of the line, in pixels. `alone`: without the line above it, so that each
        place is named in place of its likeliest cause.
        """
        self._theme = theme
        self._spots = []
        for place, id_ in places_of_causes(places).items():
            first = next((one for one in advice.causes if one.place == place), None)
            share = advice.places.get(place, 0.0)
            named = first is not None and share >= NAMED  # the share is the place's; that of its first cause stands with it
            words = f"{first.code.replace('-', ' ')} {first.probability:.0%}" if first is not None and named else ""
            self._spots.append((*middles[id_], share, place.replace("-", " ") if alone and share >= SHOWN else words))
        told = [f"{place.replace('-', ' ')} {share:.0%}" for place, share in advice.places.items() if share >= NAMED]
        self.tell(f"Where it is probably broken: {', '.join(told)}", told)
        self.setFixedHeight(theme.px(HIGH))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        """Draw the areas."""
        t, painter = self._theme, QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for middle, room, share, words in self._spots:
            side = share**0.5
            width = min(room, t.px(SMALLEST[0] + (LARGEST[0] - SMALLEST[0]) * side))
            height = t.px(SMALLEST[1] + (LARGEST[1] - SMALLEST[1]) * side)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(t.color("contradicted" if share >= LEADING else "assumed" if share >= NAMED else "hairline"))
            painter.drawRoundedRect(QRectF(middle - width / 2, t.px(2), width, height), 3, 3)
            painter.setPen(t.color("ink"))
            painter.setFont(t.font(12, bold=share >= NAMED))
            wide = max(room, t.px(60))
            box = QRectF(middle - wide / 2, t.px(4) + height, wide, t.px(16))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, f"{share:.0%}")
            painter.setFont(t.font(11))
            name = painter.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(wide))
            painter.drawText(box.translated(0, t.px(15)), Qt.AlignmentFlag.AlignCenter, name)
        painter.end()


def places_of_causes(places: list[Place]) -> dict[str, str]:
    """The place of the line that each place of a cause has, by id."""
    ids = [place.id for place in places]
    found = {"program": "program", "port": "port", "device-port": "device-port", "device": "device", "speech": "speech"}
    found["settings"] = "settings"
    adapter = next((p.id for p in places if p.drawn is Drawn.ADAPTER and p.stage is Stage.PORT), None)
    cable = next((p.id for p in places if p.drawn is Drawn.CABLE), None)
    joint = next((p.id for p in places if p.stage is Stage.WIRE and p.drawn is Drawn.JOINT), None)
    found |= {"adapter": adapter} if adapter is not None else {}
    found |= {"wire": cable or joint or "device-port"}
    return {place: id_ for place, id_ in found.items() if id_ in ids}
