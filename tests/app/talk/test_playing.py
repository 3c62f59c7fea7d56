"""The computer as a talker: limits of what is typed, load of the line, when something is due."""

import pynmea2
import pytest

from humble_courier.app.talk.playing import Playing, load, offered
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
