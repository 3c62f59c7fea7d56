"""Files as a technician brings them: recordings, marked and raw bytes, and what is no such thing."""

from pathlib import Path

import numpy as np
import pytest

from humble_courier.app.settings.inferring import as_text, infer_bytes, infer_file
from humble_courier.domain.received import Doubt, Heard
from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput
from humble_courier.line.edges import Edges
from humble_courier.line.marked import stuff
from humble_courier.line.uart import hear
from tests.line.recordings import TEXT, as_vcd, recorded

S = Settings.parse
HEARD_AS = S("9600,8N1")


def received(sent: str, heard_as: str, data: bytes = TEXT) -> list[Heard]:
    got = hear(S(sent), S(heard_as), data, 2.0)
    doubts = [Doubt.BREAK if b else Doubt.ERROR if f or p else Doubt.NONE
              for b, f, p in zip(got.breaks, got.framing, got.parity, strict=True)]  # fmt: skip
    return [Heard(int(v), d) for v, d in zip(got.values, doubts, strict=True)]


@pytest.mark.parametrize("name", ["x.vcd", "x.csv", "vcd-without-ending"])
def test_recordings_by_their_ending_or_by_what_stands_in_them(tmp_path: Path, name: str) -> None:
    edges = recorded(np.random.default_rng(1), TEXT, S("1200,7E1"), "scattered")
    rows = b"".join(b"%.8f,%d\n" % (t, edges.first ^ (i + 1) % 2) for i, t in enumerate(edges.times))
    (tmp_path / name).write_bytes(b"seconds,level\n0,1\n" + rows if name == "x.csv" else as_vcd({"tx": edges}, 100))
    found = infer_file(tmp_path / name, None, None)
    assert (found.best.rate, found.best.frame, found.best.inverted) == (1200, "7E1", False)
    assert found.text == TEXT.decode() and found.measured_rate == pytest.approx(1200, rel=0.005)


@pytest.mark.parametrize(
    ("sent", "rate"), [("9600,8N1", 9600), ("4800,8N1", 4800), ("2400,7E1", 2400), ("19200,8N1", 19200)]
)
def test_marked_bytes(tmp_path: Path, sent: str, rate: int) -> None:
    file = tmp_path / "heard.marked"
    file.write_bytes(stuff(received(sent, "9600,8N1")))
    found = infer_file(file, None, HEARD_AS)
    assert found.best.rate == rate
    assert (found.text is not None) == (rate == 9600)


def test_raw_bytes_and_what_the_frame_is_equivalent_to() -> None:
    found = infer_bytes(bytes(h.byte for h in received("9600,7E1", "9600,8N1")), HEARD_AS, marked=False)
    assert found.best.frame == "7E1" and "8N1" in found.equivalent
    assert found.text is not None and found.text.startswith("LEVEL LOGGER")


@pytest.mark.parametrize("heard_as", ["9600,8N1", "1200,8N1", "115200,8N1", "9600,7E1"])
def test_raw_text_that_was_heard_right_is_taken_as_it_is(heard_as: str) -> None:
    end = S(heard_as)
    for data in (TEXT[:40], TEXT):
        best = infer_bytes(data, end, marked=False).best
        assert (best.rate, best.frame, best.inverted) == (end.rate, str(end.frame), False)


def test_raw_bytes_that_were_heard_wrong_are_doubted() -> None:
    garbled = bytes(h.byte for h in received("2400,8N1", "9600,8N1"))
    assert infer_bytes(garbled, HEARD_AS, marked=False).best.rate == 2400


def test_a_hundred_megabytes_are_judged_by_their_beginning(tmp_path: Path) -> None:
    file = tmp_path / "long.raw"
    with file.open("wb") as out:
        for _ in range(100):
            out.write((TEXT * 5200)[: 1 << 20])
    assert infer_file(file, None, HEARD_AS).best.rate == 9600


@pytest.mark.parametrize(
    ("name", "data", "heard_as", "said"),
    [
        ("x.raw", b"", HEARD_AS, "empty"), ("x.raw", b"abc", None, "--heard-as"),
        ("x.marked", b"\xff", HEARD_AS, "no whole byte"),
        ("x.vcd", b"rubbish", None, "enddefinitions"), ("x.csv", b"0,1\n1,1\n", None, "no level changes"),
        ("x.csv", b"0,1\n1,0\n2,1\n", None, "too few"),
    ],
)  # fmt: skip
def test_what_cannot_be_judged_is_one_clear_error(
    tmp_path: Path, name: str, data: bytes, heard_as: Settings | None, said: str
) -> None:
    (tmp_path / name).write_bytes(data)
    with pytest.raises(BadInput, match=said) as told:
        infer_file(tmp_path / name, None, heard_as)
    assert str(told.value.file) == str(tmp_path / name)
    with pytest.raises(BadInput, match="No such file"):
        infer_file(tmp_path / "nowhere", None, heard_as)


def test_bytes_as_text() -> None:
    assert as_text(b"A\t\x00\xffz\r\n") == "A\t\\x00\\xffz\r\n"


def test_both_directions_of_a_recording(tmp_path: Path) -> None:
    random = np.random.default_rng(3)
    asks = recorded(random, b"ID\r\nLV\r\nST\r\n" * 3, Settings.parse("1200,7E1"))
    answers = recorded(random, TEXT, Settings.parse("1200,7E1"))
    later = float(asks.end) + 0.05
    both = {"host": asks, "device": Edges(answers.times + later, answers.first, answers.end + later)}
    file = tmp_path / "both.vcd"
    file.write_bytes(as_vcd(both))
    found = infer_file(file, None, None, both=True)
    assert [(d.signal, d.best.rate, d.best.frame) for d in found.directions] == [
        ("host", 1200, "7E1"),
        ("device", 1200, "7E1"),
    ]
    assert found.turns[0].text.startswith("ID") and found.turns[0].signal == "host"
    assert b"".join(t.data for t in found.turns if t.signal == "device") == TEXT
    with pytest.raises(BadInput, match="say which"):
        infer_file(file, None, None)
    assert infer_file(file, None, None, ["device", "host"]).directions[0].signal == "device"
