"""Drawings: states by shape and not by colour alone, maps of any link, lanes with any bytes, paper of any length."""

import subprocess
import xml.etree.ElementTree as ElementTree
from itertools import combinations
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtWidgets import QWidget
from pytestqt.qtbot import QtBot

from humble_courier.app.link.changes import new_link
from humble_courier.app.records.link_sheet import sheet
from humble_courier.app.wire.tracing import preview, trace_link
from humble_courier.app.wire.wire_map import wire_map
from humble_courier.catalog.links import resolve_link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.records import Proof, Word
from humble_courier.domain.facts import State
from humble_courier.domain.hardware import Connector, Gender
from humble_courier.domain.received import Doubt, Heard
from humble_courier.domain.utterance import Utterance, Who
from humble_courier.errors import MachineRefused
from humble_courier.ui.paper.link_sheet import write_pdf, write_svg
from humble_courier.ui.stages.talk.lanes import Lanes
from humble_courier.ui.theme import LARGEST, PALETTES, SMALLEST, Palette, Theme
from humble_courier.ui.widgets.basics import Pages
from humble_courier.ui.widgets.faces import Face, FaceView, spoken_order
from humble_courier.ui.widgets.marks import draw_state
from humble_courier.ui.widgets.wire_view import MapPainter

CATALOG = Catalog()


def grey(state: State, palette: Palette) -> list[int]:
    """A mark as dark and light alone: every colour of the marks is drawn as the same ink."""
    from dataclasses import replace

    one_ink = replace(palette, action=palette.ink, assumed=palette.ink, unknown=palette.ink, contradicted=palette.ink)
    image = QImage(24, 24, QImage.Format.Format_Grayscale8)
    image.fill(255 if palette.name != "dark" else 0)
    painter = QPainter(image)
    draw_state(painter, QPointF(12, 12), 16, state, Theme(one_ink))
    painter.end()
    return [image.pixelColor(x, y).lightness() for x in range(24) for y in range(24)]


@pytest.mark.parametrize("palette", PALETTES, ids=lambda p: p.name)
def test_states_differ_by_shape(qtbot: QtBot, palette: Palette) -> None:
    for a, b in combinations(State, 2):
        pairs = zip(grey(a, palette), grey(b, palette), strict=True)
        assert sum(abs(x - y) > 60 for x, y in pairs) >= 25, f"{a} and {b} look alike without colour"


@settings(max_examples=80, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.lists(
        st.tuples(
            st.sampled_from(Who), st.lists(st.builds(Heard, st.integers(0, 255), st.sampled_from(Doubt)), max_size=60)
        ),
        max_size=6,
    )
)
def test_lanes_show_any_bytes(qtbot: QtBot, said: list[tuple[Who, list[Heard]]]) -> None:
    """Noise, escape sequences, half lines: nothing of it reaches the drawing as anything but a shown byte."""
    lanes = Lanes()
    qtbot.addWidget(lanes)
    lanes.resize(700, 400)
    utterances = []
    for who, heard in said:
        doubts = {i: one.doubt for i, one in enumerate(heard) if one.doubt is not Doubt.NONE}
        utterances.append(Utterance(who, 1.0, 2.0, bytearray(one.byte for one in heard), doubts))
    lanes.show_said(utterances, "device", Theme())
    assert not lanes.grab().isNull()


@pytest.mark.parametrize("part", [id_ for id_, e in CATALOG.part_entries.items() if e.kind != "usb-adapter"])
def test_maps_of_all_parts_are_sound_drawings(qtbot: QtBot, tmp_path: Path, part: str) -> None:
    wiring = preview(new_link("gauge-logger", ["usb-rs232", part], None, CATALOG), CATALOG)
    write_svg(wiring, tmp_path / "map.svg")
    root = ElementTree.parse(tmp_path / "map.svg").getroot()
    assert root.tag.endswith("svg")
    text = "".join(root.itertext())
    assert "TXD" in text
    if not all(wiring.mated):
        assert "does not mate" in text


def test_a_conductor_is_found_under_the_pointer(qtbot: QtBot) -> None:
    wiring = preview(new_link("gauge-logger", ["usb-rs232", "crossed-de9-3wire"], None, CATALOG), CATALOG)
    drawing = MapPainter(wiring, Theme(), 800)
    for contact in wiring.near:
        assert drawing.net_at(QPointF(drawing.x(0) - 20, drawing.y(contact.row))) == contact.net
    for contact in wiring.far:
        assert drawing.net_at(QPointF(drawing.x(1) + 20, drawing.y(contact.row))) == contact.net
    assert drawing.net_at(QPointF(400, 5)) is None


def test_a_long_record_runs_over_pages_and_loses_nothing(qtbot: QtBot, tmp_path: Path) -> None:
    link = resolve_link(new_link("gauge-logger", ["usb-rs232", "crossed-de9-3wire"], "/dev/ttyUSB0", CATALOG), CATALOG)
    words = [Word(float(i), "we" if i % 2 else "they", "41", f"word-{i:03d} <b>", [0], "a & b") for i in range(120)]
    proof = Proof(1.0, "/dev/ttyUSB0", "x", ["x"], "1200,7E1", "1200,7E1", {"station": "SKW-GH-07"}, words, [])
    write_pdf(sheet(link, CATALOG, proof, "Weir <&> lake"), tmp_path / "sheet.pdf")
    text = subprocess.run(["pdftotext", str(tmp_path / "sheet.pdf"), "-"], capture_output=True, text=True, check=True).stdout
    assert all(f"word-{i:03d} <b>" in text for i in range(120))
    assert text.count("\f") >= 3
    assert "Weir <&> lake" in text
    with pytest.raises(MachineRefused, match="cannot be written"):
        write_svg(wire_map(trace_link(link, CATALOG)), tmp_path)


def test_text_grows_within_bounds() -> None:
    theme = Theme()
    for _ in range(40):
        theme = theme.scaled(theme.scale + 0.1)
    assert theme.scale == LARGEST
    for _ in range(40):
        theme = theme.scaled(theme.scale - 0.1)
    assert theme.scale == SMALLEST
    assert theme.next_palette().next_palette().next_palette().palette == theme.palette


def test_a_first_page_that_comes_late_has_the_room_there_is(qtbot: QtBot) -> None:
    pages = Pages()
    qtbot.addWidget(pages)
    pages.resize(600, 460)
    pages.show()
    late = QWidget()
    pages.addWidget(late)
    pages.setCurrentWidget(late)
    assert (late.width(), late.height()) == (600, 460)


def test_colours_of_loose_conductors_stand_at_their_contacts(qtbot: QtBot, catalog: Catalog) -> None:
    """On a turned or lying device the row reads as the eye meets it: contact and colour together."""
    shape = catalog.shapes["terminal", 5]
    colours = (("1", "WH"), ("2", "BN"), ("5", "GN"))
    lying = Face(Connector("terminal", 5, Gender.SOCKET), shape, frozenset("125"), turns=2, colours=colours)
    upright = Face(lying.connector, shape, lying.used, colours=colours)
    assert spoken_order(upright).split(", ") == list(reversed(spoken_order(lying).split(", ")))
    assert "1 WH" in spoken_order(lying) and "3" in spoken_order(lying)
    view = FaceView(240, 120)
    qtbot.addWidget(view)
    view.show_face(lying, "device side", Theme())
    with_words = view.grab().toImage()
    view.show_face(Face(lying.connector, shape, lying.used, turns=2), "device side", Theme())
    assert with_words != view.grab().toImage() and "GN" not in view.accessibleName()
