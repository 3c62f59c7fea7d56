"""Settings from recordings that the inference has not seen: clock error, jitter, pauses, leaning edges, glitches, files."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from humble_courier.domain.settings import Frame, Settings
from humble_courier.errors import BadInput
from humble_courier.line.captures import read_csv, read_vcd
from humble_courier.line.edges import Edges, from_samples, read
from humble_courier.line.from_edges import infer_edges
from humble_courier.line.rates import named
from humble_courier.line.wave import encode
from tests.line.recordings import TEXT, as_vcd, recorded

FRAMES = ("8N1", "7E1", "8E1", "7O1", "8O1", "8N2", "7N2", "7E2", "5N1.5")


def random_of(*seed: object) -> np.random.Generator:
    return np.random.default_rng(sum(map(ord, str(seed))))


@pytest.mark.parametrize("frame", FRAMES)
@pytest.mark.parametrize("kind", ["none", "scattered"])
@pytest.mark.parametrize("rate", [110, 1200, 10400, 31250, 115200])
def test_rate_and_frame(frame: str, kind: str, rate: int) -> None:
    random = random_of(frame, kind, rate)
    end = Settings(rate, Frame.parse(frame))
    data = TEXT if frame[0] != "5" else random.integers(0, 32, 200, np.uint8).tobytes()
    clock = 1 + random.uniform(-0.015, 0.015)
    edges = recorded(random, data, end, kind, clock, jitter=0.03, inverted=bool(random.integers(0, 2)), lean=0.08)
    found = infer_edges(edges)
    assert (found.best.rate, str(found.best.frame)) == (rate, frame)
    assert found.measured_rate == pytest.approx(rate * clock, rel=0.005)  # better than half a percent
    mask = (1 << end.frame.data_bits) - 1
    assert found.read.values.tobytes() == bytes(b & mask for b in data)


@pytest.mark.parametrize("inverted", [False, True])
def test_polarity(inverted: bool) -> None:
    edges = recorded(random_of(1), TEXT, Settings.parse("9600,8N1"), "scattered", inverted=inverted)
    assert infer_edges(edges).best.inverted is inverted


@pytest.mark.parametrize(
    ("sent", "kind", "among"),
    [
        ("9600,8N1", "scattered", {"8N1"}),
        ("9600,7E1", "steady", {"7E1", "7E2"}),  # a steady pause of two bits may be stop bits
        ("9600,8N2", "none", {"8N2", "8M1"}),
    ],
)
def test_what_cannot_be_told_is_among_the_candidates(sent: str, kind: str, among: set[str]) -> None:
    found = infer_edges(recorded(random_of(2), TEXT, Settings.parse(sent), kind))
    assert {str(c.frame) for c in found.candidates if c.probability > 0.01} <= among | {str(f) for f in found.equivalent}
    assert sum(c.probability for c in found.candidates) == pytest.approx(1, abs=0.01)


def test_one_isolated_character_cannot_tell_its_stop_bits() -> None:
    found = infer_edges(recorded(random_of(3), b"UL", Settings.parse("9600,8N1"), "scattered"))
    assert found.best.rate == 9600 and len(found.candidates) > 1


def test_glitches_are_left_out_and_told() -> None:
    edges = recorded(random_of(4), TEXT, Settings.parse("9600,8N1"), "scattered")
    spikes = np.array([t for t in edges.times[10:200:40] + 30e-6 for t in (t, t + 2e-6)])
    spoiled = Edges(np.sort(np.concatenate((edges.times, spikes))), edges.first, edges.end)
    found = infer_edges(spoiled)
    assert (found.best.rate, str(found.best.frame), found.glitches) == (9600, "8N1", len(spikes) // 2)
    assert found.read.values.tobytes() == TEXT


@pytest.mark.parametrize("samples", [8, 20])
def test_a_sampled_recording(samples: int) -> None:
    wave = encode(TEXT, Settings.parse("9600,7E1"), 3)
    levels = np.repeat(wave.levels, samples // 2)
    found = infer_edges(from_samples(levels, 1 / 9600 / samples))
    assert (found.best.rate, str(found.best.frame)) == (9600, "7E1")


def test_nothing_to_judge_by_and_sampled_too_seldom() -> None:
    with pytest.raises(BadInput, match="too few"):
        infer_edges(Edges(np.array([0.1, 0.2]), 1, 1.0))
    wave = encode(TEXT, Settings.parse("9600,8N1"), 3)
    seldom = wave.levels[:: 2 * 2]  # one sample in two bits
    with pytest.raises(BadInput, match="samples a second"):
        infer_edges(from_samples(seldom, 2 / 9600))


@settings(deadline=None, max_examples=40)
@given(st.lists(st.floats(1e-6, 1.0), min_size=0, max_size=80), st.integers(0, 1))
def test_any_changes_give_an_answer_or_one_clear_error(lengths: list[float], first: int) -> None:
    times = np.cumsum(np.array(lengths)) if lengths else np.zeros(0)
    try:
        found = infer_edges(Edges(times, first, float(times[-1]) + 1 if lengths else 1.0))
    except BadInput:
        return
    assert 0 < found.best.probability <= 1 + 1e-9 and found.measured_rate > 0


@given(st.binary(min_size=1, max_size=40), st.sampled_from(FRAMES), st.integers(50, 1_000_000))
def test_edges_are_read_as_they_were_sent(data: bytes, frame: str, rate: int) -> None:
    end = Settings(rate, Frame.parse(frame))
    got = read(recorded(random_of(5), data, end), 1 / rate, end.frame)
    assert got.values.tobytes() == bytes(b & ((1 << end.frame.data_bits) - 1) for b in data)
    assert not got.framing.any() and not got.parity.any()


@pytest.mark.parametrize(
    ("measured", "told"),
    [(9650, 9600), (10_390, 10_400), (31_000, 31_250), (45_000, 45_000), (134.5, 134), (56_560, 57_600), (56_010, 56_000)],
)
def test_the_likeliest_rate_is_not_always_the_nearest(measured: float, told: int) -> None:
    assert max(named(measured).items(), key=lambda item: item[1])[0] == told


def edges_of(settings: str) -> Edges:
    return recorded(random_of(6), TEXT, Settings.parse(settings), "scattered")


def test_a_vcd_file_of_another_writer() -> None:
    edges = edges_of("9600,8N1")
    recording = read_vcd(as_vcd({"tx": edges, "quiet": Edges(np.zeros(0), 1, 1.0)}), "x.vcd")
    assert list(recording.signals) == ["tx", "quiet"] and not recording.cut
    assert np.allclose(recording.signal(None, "x").times, edges.times, atol=1e-8)


def test_both_directions_have_to_be_named() -> None:
    recording = read_vcd(as_vcd({"tx": edges_of("9600,8N1"), "rx": edges_of("1200,7E1")}), "x.vcd")
    with pytest.raises(BadInput, match=r"--signal NAME \(tx, rx\)"):
        recording.signal(None, "x.vcd")
    assert infer_edges(recording.signal("rx", "x.vcd")).best.rate == 1200
    with pytest.raises(BadInput, match="no signal “z”"):
        recording.signal("z", "x.vcd")


@pytest.mark.parametrize("share", [0.3, 0.7, 0.999])
def test_a_vcd_file_that_is_cut_off_is_read_as_far_as_it_goes(share: float) -> None:
    whole = as_vcd({"tx": edges_of("9600,8N1")})
    recording = read_vcd(whole[: int(len(whole) * share)].rstrip(), "x.vcd")
    assert recording.cut and infer_edges(recording.signal(None, "x.vcd")).best.rate == 9600


HEAD = b"$timescale 1 us $end $var wire 1 ! tx $end $enddefinitions $end\n"


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "enddefinitions"), (b"$var wire 1 ! tx $end", "enddefinitions"), (b"$enddefinitions $end\n", "time scale"),
        (b"$timescale 1 us $end $enddefinitions $end\n#1\n", "no signal of one bit"),
        (HEAD + b"#1\n0!\n#x2\n1!\n", "no number"),
        (HEAD + b"#9\n0!\n#2\n1!\n", "backwards"),
    ],
)  # fmt: skip
def test_vcd_files_that_cannot_be_read(data: bytes, said: str) -> None:
    with pytest.raises(BadInput, match=said):
        read_vcd(data, "x.vcd")


def test_a_vcd_file_without_changes() -> None:
    with pytest.raises(BadInput, match="no level changes"):
        read_vcd(HEAD + b"#0\n1!\n", "x.vcd").signal(None, "x.vcd")


def csv_of(edges: Edges, high: float = 1, low: float = 0, head: bytes = b"seconds,level\n") -> bytes:
    rows = [(0.0, edges.first), *((t, edges.first ^ (i + 1) % 2) for i, t in enumerate(edges.times))]
    return head + b"".join(b"%.9f,%g\n" % (t, high if level else low) for t, level in rows)


@pytest.mark.parametrize(("high", "low", "head"), [(1, 0, b"seconds,level\n"), (3.3, 0.1, b""), (-9.5, 9.2, b"Time,Volt\n")])
def test_csv_files(high: float, low: float, head: bytes) -> None:
    recording = read_csv(csv_of(edges_of("9600,8N1"), high, low, head), "x.csv")
    found = infer_edges(recording.signal(None, "x.csv"))
    assert (found.best.rate, str(found.best.frame), found.best.inverted) == (9600, "8N1", high < low)


def test_a_sampled_csv_file_with_slow_edges() -> None:
    wave = encode(TEXT[:60], Settings.parse("9600,8N1"), 3)
    volts = np.convolve(np.repeat(wave.levels, 8) * 6.6 - 3.3, np.ones(5) / 5, "same")
    data = b"".join(b"%.7f,%.3f\n" % (i / 9600 / 16, v) for i, v in enumerate(volts[4:-4]))
    recording = read_csv(data, "x.csv")
    edges = recording.signal(None, "x.csv")
    assert edges.resolution == pytest.approx(1 / 9600 / 16, rel=0.01)
    assert infer_edges(edges).best.rate == 9600


@pytest.mark.parametrize(
    ("data", "said", "line"),
    [(b"", "no numbers", None), (b"a,b\nc,d\n", "no numbers", None), (b"1\n2\n", "one column", 1),
     (b"s,l\n0,1\n0.1,x\n0.2,0\n", "expected 2 numbers", 3), (b"0,1\n2,0\n1,1\n", "backwards", 3)],
)  # fmt: skip
def test_csv_files_that_cannot_be_read(data: bytes, said: str, line: int | None) -> None:
    with pytest.raises(BadInput, match=said) as told:
        read_csv(data, "x.csv")
    assert told.value.line == line
