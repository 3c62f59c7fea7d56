"""The computer as a talker: limits of what is typed, load of the line, when something is due."""

import math

import pynmea2
import pytest

from humble_courier.app.talk.playing import Playing, headline, load, offered, picture
from humble_courier.catalog.load import Catalog
from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput

FIELDS = {"speed_kn": "6", "course": "45", "turn": "0.2", "every_s": "1"}


def test_each_sentence_says_what_it_carries() -> None:
    told = dict(offered(Catalog()))
    assert "position" in told["GGA"] and set(told) >= {"RMC", "HDT", "DPT"}


@pytest.mark.parametrize(
    ("field", "text", "said"),
    [
        ("every_s", "soon", "no number"), ("every_s", "0.01", "0.05 to 3600 seconds"), ("every_s", "4000", "0.05 to 3600"),
        ("speed_kn", "-1", "0 to 600 knots"), ("speed_kn", "601", "0 to 600 knots"), ("course", "", "no number"),
        ("turn", "inf", "no number"),
    ],
)  # fmt: skip
def test_limits(field: str, text: str, said: str) -> None:
    for make in (Playing, lambda fields, sentences: load(fields, sentences, None)):
        with pytest.raises(BadInput, match=said):
            make({**FIELDS, field: text}, ["RMC"])


def test_a_wrong_change_leaves_what_is_played() -> None:
    playing = Playing(FIELDS, ["HDT"])
    with pytest.raises(BadInput):
        playing.change({**FIELDS, "every_s": "never"}, ["RMC"])
    assert playing.due().startswith(b"$HEHDT")
    playing.change(FIELDS, ["RMC"])
    assert playing.due() == b"" and 0 < playing.due_s <= 1


def test_load_is_the_share_of_time_that_the_characters_take() -> None:
    at = Settings.parse("4800,8N1")
    found = load(FIELDS, ["RMC", "GGA"], at)
    lines = found.example.split("\r\n")[:-1]
    assert [type(pynmea2.parse(line)).__name__ for line in lines] == ["RMC", "GGA"]
    assert found.share == pytest.approx(len(found.example) * 10 / 4800, rel=0.05)
    full = load({**FIELDS, "every_s": "0.1"}, ["RMC", "GGA"], at)
    assert full.share > 1 and "Too much" in full.text and "Too much" not in found.text


def test_a_round_as_lanes_and_the_way_true_to_scale() -> None:
    settings = Settings.parse("4800,8N1")
    drawn = picture({**FIELDS, "course": "0"}, ["RMC", "RMB"], settings)
    first, second = (lane.spans[0] for lane in drawn.lanes)
    assert (first.start_s, second.start_s) == (0, first.seconds)
    assert first.seconds + second.seconds == pytest.approx(load(FIELDS, ["RMC", "RMB"], settings).share)  # a round a second
    corners = [(round(x, 2), round(y, 2)) for _, x, y in drawn.waypoints]
    assert corners == [(0, 0), (0, 0.6), (0.6, 0.6), (0.6, 0)]  # six knots, a tenth of an hour a leg, to the right
    assert max(abs(x) for x, _ in drawn.way) < 0.65 and drawn.way[-1] == pytest.approx(drawn.way[0], abs=0.05)
    circle = picture({**FIELDS, "turn": "0.2"}, ["GGA"], settings)
    assert circle.lasts_s == 1800 and not circle.waypoints
    wide = max(x for x, _ in circle.way) - min(x for x, _ in circle.way)
    assert wide == pytest.approx(2 * 6 / 3600 / math.radians(0.2), rel=0.01)  # a circle's diameter: 2 v / turn


@pytest.mark.parametrize(
    ("sentences", "rate", "told"),
    [
        ([], 4800, "Nothing is said yet: tick a sentence"),
        (["HDT"], 4800, "HDT takes 4% of the line"),  # 18 characters of ten bits
        (["GGA", "RMC"], 300, "2 sentences take 470% of the line, more than it carries"),  # 141 characters
    ],
)
def test_the_headline_says_what_the_line_carries(sentences: list[str], rate: int, told: str) -> None:
    assert headline(FIELDS, sentences, Settings.parse(f"{rate},8N1")) == told
