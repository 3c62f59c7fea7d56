"""Colours, type and sizes. Three sets of colours, all at least 4.5 to 1 for text (WCAG 2.2, 1.4.3); a test measures it."""

from dataclasses import dataclass, field, fields
from functools import lru_cache
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QGuiApplication

from humble_courier.domain.facts import State

FONTS = Path(__file__).parent / "fonts"
SMALLEST, LARGEST = 0.9, 2.0  # of the text: what the interface promises


@dataclass(frozen=True)
class Palette:
    """Colours by what they are for."""

    name: str
    ground: str
    surface: str
    ink: str
    quiet: str
    hairline: str
    edge: str  # of what can be touched or moved: 3 to 1 (WCAG 2.2, 1.4.11); hairlines only divide
    action: str
    on_action: str
    assumed: str
    contradicted: str
    unknown: str
    socket: str
    armed: str

    def state(self, state: State) -> QColor:
        """The colour that supports a state's shape."""
        text = {
            State.PROVEN: self.action,
            State.ASSUMED: self.assumed,
            State.EARLIER: self.action,
            State.UNKNOWN: self.unknown,
            State.CONTRADICTED: self.contradicted,
        }[state]
        return QColor(text)


LIGHT = Palette(
    "light", "#F4F1E8", "#FCFBF7", "#1D2A33", "#55626C", "#CFC8B6", "#857D69", "#0B6070", "#FFFFFF",
    "#8A5F00", "#B4371B", "#626970", "#EDE6D3", "#FBEBD3",
)  # fmt: skip
DARK = Palette(
    "dark", "#14191D", "#1B2227", "#E8E4D8", "#A3ADB3", "#37424A", "#85929B", "#5CC3CF", "#10181C",
    "#E0B040", "#FF8A66", "#9AA4AB", "#37424A", "#3A2F18",
)  # fmt: skip
OUTDOOR = Palette(
    "outdoor", "#FFFFFF", "#FFFFFF", "#000000", "#1F1F1F", "#4A4A4A", "#4A4A4A", "#00404C", "#FFFFFF",
    "#5A3C00", "#8A1600", "#333333", "#D9D9D9", "#FFE2B0",
)  # fmt: skip
PALETTES = (LIGHT, DARK, OUTDOOR)


def prefers_dark() -> bool:
    """Whether the system wants dark windows."""
    hints = QGuiApplication.styleHints()
    return hints is not None and hints.colorScheme() is Qt.ColorScheme.Dark


@lru_cache
def _parsed(text: str) -> QColor:
    return QColor(text)


@dataclass(frozen=True)
class Theme:
    """A palette and the size of the text. All lengths go through `px`, so that text and space grow together."""

    palette: Palette = LIGHT
    scale: float = 1.0
    dash: list[float] = field(default_factory=lambda: [3.0, 3.0])

    def px(self, length: float) -> int:
        """A length at the current size."""
        return round(length * self.scale)

    def font(self, size: float = 13, bold: bool = False, mono: bool = False) -> QFont:
        """The program's type at `size` pixels."""
        font = QFont("B612 Mono" if mono else "B612")
        font.setPixelSize(max(8, self.px(size)))
        font.setBold(bold)
        return font

    def color(self, name: str) -> QColor:
        """A colour of the palette by name."""
        return QColor(_parsed(getattr(self.palette, name)))  # a copy: some are made paler

    @classmethod
    def preferred(cls, text: int, colours: str, dark: bool) -> "Theme":
        """The theme for a text size in percent and colours by name; `dark`: what the system prefers."""
        wanted = ("dark" if dark else "light") if colours == "as the system" else colours
        return cls(next(palette for palette in PALETTES if palette.name == wanted)).scaled(text / 100)

    def next_palette(self) -> "Theme":
        """The theme with the next set of colours."""
        index = (PALETTES.index(self.palette) + 1) % len(PALETTES)
        return Theme(PALETTES[index], self.scale)

    def scaled(self, scale: float) -> "Theme":
        """The theme with another text size, from 90 to 200 percent."""
        return Theme(self.palette, min(LARGEST, max(SMALLEST, round(scale, 2))))

    def sheet(self, arrow: str, tick: str) -> str:
        """The style sheet of the whole window, with the files of the arrow on lists and of the tick in boxes."""
        values = {f.name: getattr(self.palette, f.name) for f in fields(self.palette)}
        sizes = {f"s{n}": str(self.px(n)) for n in (2, 4, 6, 8, 11, 12, 13, 16, 17, 20, 24, 32)}
        text = _SHEET.replace("@arrow", arrow).replace("@tick", tick)
        for key, value in sorted({**values, **sizes}.items(), key=lambda pair: -len(pair[0])):
            text = text.replace(f"@{key}", value)
        return text


_SHEET = """
* { font-family: "B612"; font-size: @s13px; color: @ink; }
QMainWindow, QDialog { background: @ground; }
QToolTip { background: @surface; color: @ink; border: 1px solid @hairline; padding: @s4px; }
#header, #rail, #places, #facts, #foot { background: @ground; }
#line, #stage, QScrollArea, #lanes { background: @surface; border: 0; }
#facts { border-left: 1px solid @hairline; }
#rail { border-right: 1px solid @hairline; }
#header, #line { border-bottom: 1px solid @hairline; }
#foot { border-top: 1px solid @hairline; }
#foot[armed="true"] { background: @armed; }
QLabel { background: transparent; }
QLabel[role="headline"] { font-size: @s17px; font-weight: bold; }
QLabel[role="title"] { font-weight: bold; }
QLabel[role="quiet"] { color: @quiet; }
QLabel[role="small"] { color: @quiet; font-size: @s12px; }
QLabel[role="wrong"] { color: @contradicted; }
QLabel[role="caution"] { color: @assumed; font-weight: bold; }
QLabel[role="end"] { border: 2px solid @action; border-radius: @s6px; padding: @s4px @s12px; font-weight: bold; }
QLabel[role="end"][differs="yes"] { border: 2px dashed @contradicted; color: @contradicted; }
QLabel[role="words"] { background: @ground; border-radius: @s4px; padding: @s2px @s6px; }
QLabel[role="mono"] { font-family: "B612 Mono"; }
QPushButton { background: @surface; color: @action; border: 1px solid @action; border-radius: @s6px;
  padding: @s4px @s12px; min-height: @s24px; font-weight: bold; }
QPushButton:hover { border-width: 2px; }
QPushButton:focus { border: 2px solid @ink; }
QToolButton[role="picture"] { background: @surface; color: @ink; border: 1px solid @edge; border-radius: @s6px;
  padding: @s4px; }
QToolButton[role="picture"]:hover { border-color: @action; }
QToolButton[role="picture"]:focus { border: 2px solid @ink; }
QPushButton:disabled { color: @unknown; border-color: @hairline; }
QPushButton[role="main"] { background: @action; color: @on_action; }
QPushButton[role="main"]:disabled { background: @ground; color: @unknown; }
QPushButton[role="act"] { border: 1px solid @edge; color: @ink; font-weight: normal; font-size: @s12px;
  padding: @s2px @s4px; min-height: @s32px; }
QPushButton[role="act"]:checked { border: 2px solid @action; background: @socket; font-weight: bold; }
QPushButton[role="act"]:focus { border: 2px solid @ink; }
QPushButton[role="contact"] { border: 2px solid @ink; border-radius: @s16px; padding: 0; min-height: @s8px; color: @ink; }
QPushButton[role="contact"]:checked { background: @ink; color: @surface; }
QPushButton[role="contact"]:focus { border: 3px solid @action; }
QPushButton[role="tile"] { border: 1px solid @edge; padding: 0; }
QPushButton[role="tile"]:checked { border: 2px solid @action; background: @socket; }
QPushButton[role="tile"]:focus { border: 2px solid @ink; }
QPushButton[rows="two"] { min-height: @s40px; }
QPushButton[bulk="large"] { font-size: @s20px; min-height: @s32px; padding: @s8px; }
QPushButton[role="rail"] { background: transparent; border: 0; border-left: 4px solid transparent; border-radius: 0;
  color: @ink; text-align: left; font-weight: normal; padding: @s8px @s12px; }
QPushButton[role="rail"]:checked { background: @surface; border-left-color: @action; font-weight: bold; }
QPushButton[role="rail"]:focus { border: 2px solid @ink; }
QComboBox, QLineEdit { background: @surface; border: 1px solid @quiet; border-radius: @s6px; padding: @s4px @s8px;
  min-height: @s24px; selection-background-color: @action; selection-color: @on_action; }
QComboBox::drop-down { border: 0; width: @s24px; }
QComboBox::down-arrow { image: url(@arrow); width: @s12px; height: @s8px; }
QComboBox:focus, QLineEdit:focus { border: 2px solid @action; }
QComboBox QAbstractItemView { background: @surface; color: @ink; selection-background-color: @action;
  selection-color: @on_action; border: 1px solid @hairline; }
QComboBox QAbstractItemView::item { min-height: @s32px; }
QListView { background: @surface; border: 1px solid @edge; border-radius: @s6px; outline: 0; }
QListWidget { background: @surface; border: 1px solid @edge; border-radius: @s6px; outline: 0; }
QListWidget::item { min-height: @s32px; padding: @s2px @s8px; color: @ink; }
QListWidget::item:selected { background: @socket; color: @ink; border-left: 4px solid @action; }
QTableView { background: @surface; border: 1px solid @edge; border-radius: @s6px; color: @ink; outline: 0; }
QTableView::item { padding: @s2px @s8px; }
QTableView::item:selected { background: @socket; color: @ink; }
QHeaderView::section { background: @surface; color: @quiet; border: 0; border-bottom: 1px solid @hairline;
  padding: @s4px @s8px; }
QLabel[role="keys"] { border: 1px dashed @quiet; border-radius: @s6px; color: @ink; }
QLabel[role="keys"]:focus { border: 2px solid @action; font-weight: bold; }
QLabel[role="keys"]:disabled { color: @quiet; border-color: @hairline; }
QFrame[role="card"] { background: @surface; border: 1px solid @action; border-radius: @s8px; }
QFrame[role="expected"] { background: @surface; border: 1px dashed @quiet; border-radius: @s8px; }
QFrame[role="row"] { background: @surface; border: 0; border-bottom: 1px solid @hairline; }
QCheckBox { spacing: @s8px; min-height: @s32px; }
QCheckBox::indicator { width: @s16px; height: @s16px; border: 1px solid @quiet; border-radius: @s4px; background: @surface; }
QCheckBox::indicator:checked { background: @action; border-color: @action; image: url(@tick); }
QCheckBox:focus { border: 1px solid @action; }
QScrollBar:vertical { background: transparent; width: @s12px; margin: 0; }
QScrollBar::handle:vertical { background: @edge; border-radius: 3px; min-height: @s24px; margin: 0 3px; }
QScrollBar:horizontal { background: transparent; height: @s12px; margin: 0; }
QScrollBar::handle:horizontal { background: @edge; border-radius: 3px; min-width: @s24px; margin: 3px 0; }
QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
QTextBrowser { background: @surface; border: 0; }
QPlainTextEdit { background: @surface; border: 1px solid @edge; border-radius: @s6px; font-family: "B612 Mono"; }
QSpinBox, QDateEdit {
    background: @surface; border: 1px solid @quiet; border-radius: @s6px; min-height: @s24px; padding: @s4px;
}
QRadioButton { min-height: @s32px; }
QProgressBar { border: 1px solid @edge; border-radius: @s6px; background: @ground; color: @ink;
  text-align: center; min-height: @s24px; }
QProgressBar::chunk { background: @socket; border-right: 3px solid @action; border-radius: @s6px; }
#drop { border: 2px dashed @edge; border-radius: @s8px; color: @quiet; }
"""


FAMILY = "B612"


def load_fonts() -> None:
    """Make the shipped fonts known to Qt, once: each time all text is laid out anew. The application must exist."""
    if FAMILY in QFontDatabase.families():
        return
    for path in sorted(FONTS.glob("*.otf")):
        QFontDatabase.addApplicationFont(str(path))
