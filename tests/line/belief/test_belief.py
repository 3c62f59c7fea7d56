"""Settings from received bytes: on traffic the tables were not made from, with both kinds of receivers and clock errors."""

import numpy as np
import pytest
from numpy.typing import NDArray

from humble_courier.domain.settings import Frame, Settings
from humble_courier.line.belief import cells, tables
from humble_courier.line.belief.belief import Belief, counted, in_order
from humble_courier.line.belief.listening import Listening
from humble_courier.line.belief.traffic import FAMILIES
from humble_courier.line.uart import Resync, receive
from tests.line.belief.other_traffic import OTHER

Heard = tuple[NDArray[np.uint8], NDArray[np.bool_]]


def listened(
    random: np.random.Generator,
    kind: str,
    sent: Settings,
    heard_as: Settings,
    count: int,
    resync: Resync,
    clock: float = 1.0,
    centre: tuple[int, bool] = (8, False),
    within: float = 0.0,
) -> Heard:
    """What a receiver hands over of other traffic: values and errors of `count` characters.

    `within`: characters of the sender that have gone when it is opened.
    """
    size = int(count * max(1.0, 1.4 * sent.rate / heard_as.rate)) + 8
    wave = cells.wave_of(OTHER[kind](random, size), sent.frame, cells.gaps(random, size), False, sent.rate * clock)
    opened = within * sent.frame.bits / sent.rate
    got = receive(wave, heard_as, resync, after=opened, majority=centre[1], centre=centre[0])
    return got.values[:count], (got.framing | got.parity)[:count]


@pytest.mark.parametrize("kind", OTHER)
@pytest.mark.parametrize("sent", ["9600,8N1", "1200,7E1", "38400,8E1", "115200,8O1", "2400,7O1"])
def test_listening_again_ends_with_the_right_settings(kind: str, sent: str) -> None:
    random, end = np.random.default_rng(sum(map(ord, kind + sent))), Settings.parse(sent)
    listening, resync = Listening(), list(Resync)[len(kind) % 2]
    while listening.answer is None and not listening.given_up:
        opened = listening.next()
        listening.heard(opened, *listened(random, kind, end, opened, 64, resync, 1 + random.uniform(-0.015, 0.015)))
    assert listening.answer is not None and listening.listens <= 24
    told = {str(listening.answer.settings.frame), *listening.answer.equivalent}
    assert listening.answer.settings.rate == end.rate and str(end.frame) in told


@pytest.mark.parametrize("kind", ["licence_text", "hex_records", "packed_floats"])
@pytest.mark.parametrize("sent", ["9600,8N1", "19200,7E1", "38400,8O1"])
def test_a_stream_without_pauses_that_is_opened_within_a_character_is_resolved(
    kind: str, sent: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(cells, "gaps", lambda random, count: np.zeros(count, np.int64))
    random, end, listening = np.random.default_rng(9), Settings.parse(sent), Listening()
    while listening.answer is None and not listening.given_up:
        opened = listening.next()
        listening.heard(opened, *listened(random, kind, end, opened, 64, Resync.WAIT_FOR_MARK, within=random.uniform(1, 3)))
    assert listening.answer is not None and listening.answer.settings.rate == end.rate
    assert str(end.frame) in {str(listening.answer.settings.frame), *listening.answer.equivalent}


def test_a_talker_with_parity_and_one_stray_byte_stays_what_it_is() -> None:
    random, end, listening = np.random.default_rng(10), Settings.parse("9600,7E1"), Listening()
    while listening.answer is None and not listening.given_up:
        opened = listening.next()
        values, errors = listened(random, "licence_text", end, opened, 64, Resync.WAIT_FOR_MARK)
        values[40] ^= 0x10 if opened.rate == end.rate else 0
        listening.heard(opened, values, errors)
    assert listening.answer is not None and str(listening.answer.settings.frame) == "7E1"


def test_the_next_listen_is_at_the_senders_rate_once_that_is_certain_and_a_sheet_is_believed() -> None:
    random, sent = np.random.default_rng(12), Settings.parse("4800,7E1")
    heard = listened(random, "hex_records", sent, Settings(9600), 64, Resync.WAIT_FOR_MARK)
    belief, few = Belief(), Belief(expected=sent)
    belief.listen_in_order(Settings(9600), in_order(*heard))
    assert belief.rates()[4800] > 0.99 and belief.next_listen() == Settings(4800)
    assert few.told()[0].probability == pytest.approx(0.5, abs=0.01)
    assert (few.told()[0].rate, str(few.told()[0].frame)) == (4800, "7E1")


def test_at_the_right_rate_one_listen_tells_the_frame() -> None:
    random = np.random.default_rng(4)
    for sent in ("19200,8N1", "19200,7E1", "19200,8O1"):
        belief = Belief()
        belief.listen(
            Settings(19200),
            counted(*listened(random, "yaml_text", Settings.parse(sent), Settings(19200), 64, Resync.WAIT_FOR_MARK)),
        )
        best = belief.told()[0]
        assert (best.rate, str(best.frame), best.inverted) == (19200, sent.partition(",")[2], False)
        assert belief.rates()[19200] > 0.9


def test_an_inverted_line_is_suspected() -> None:
    random = np.random.default_rng(5)
    data = FAMILIES["log text"][0](random, 200)
    wave = cells.wave_of(data, Frame(), cells.gaps(random, 200), True, 9600.0)
    got = receive(wave, Settings(9600))
    belief = Belief()
    belief.listen(Settings(9600), counted(got.values, got.framing))
    assert sum(b.probability for b in belief.told() if b.inverted) > 0.5


def test_nothing_heard_leaves_what_was_believed_and_probabilities_add_up() -> None:
    belief = Belief()
    before = belief.told()
    belief.listen(Settings(9600), np.zeros(512, np.int64))
    assert belief.told() == before and before[0].rate == 9600
    belief.listen(Settings(9600), counted(np.full(30, 0x55, np.uint8), np.zeros(30, np.bool_)))
    assert sum(belief.rates().values()) == pytest.approx(1)
    assert sum(b.probability for b in belief.told()) == pytest.approx(1, abs=0.02)


def test_without_marked_errors_less_is_known_but_the_same_is_believed() -> None:
    random = np.random.default_rng(6)
    values, errors = listened(random, "licence_text", Settings.parse("9600,7E1"), Settings(9600), 64, Resync.WAIT_FOR_MARK)
    belief = Belief()
    belief.listen(Settings(9600), counted(values, np.zeros_like(errors)), errors_known=False)
    assert (belief.told()[0].rate, str(belief.told()[0].frame)) == (9600, "7E1")


@pytest.mark.parametrize("ratio", [0.25, 0.5, 1.0, 1.5])
def test_the_shipped_tables_are_those_that_the_simulator_makes(ratio: float) -> None:
    """A cell is made anew with other dice: of all ratios in the shipped tables its own is the nearest."""
    random, shipped = np.random.default_rng(99), tables.load()
    frame = tables.FRAMES.index("8E1")
    for k, (make, _) in enumerate(list(FAMILIES.values())[:3]):
        counts = cells.simulate(random, ratio, Frame.parse("8E1"), False, make, Frame())
        kinds = np.exp(shipped.upright[:, frame, 3 * k : 3 * k + 3].astype(float) / -tables.NATS)
        runs = (kinds / kinds.sum(axis=-1, keepdims=True))[..., None, :]
        shares = counts / counts.sum(axis=-1, keepdims=True)
        apart = (np.abs(runs - shares).sum(axis=-1) / 2).min(axis=1).mean(axis=-1)  # each run against the kind nearest to it
        nearest = shipped.logs[apart.argmin()]
        assert abs(nearest - np.log(ratio)) < 0.1 and apart.min() < 0.5


def test_tables_hold_probabilities() -> None:
    for stored in (tables.load().upright, tables.load().inverted):
        sums = np.exp(-stored.astype(float) / tables.NATS).sum(axis=-1)
        rounding = np.exp(0.5 / tables.NATS)  # what the stored steps leave open
        assert sums.min() > 1 / rounding and sums.max() < rounding


@pytest.mark.parametrize("heard_as", ["9600,7E1", "4800,7O1"])
def test_a_receiver_of_seven_bits_reads_the_same_ten_bits(heard_as: str) -> None:
    """The shipped tables, named otherwise, against the simulator set to seven bits and parity."""
    random, opened = np.random.default_rng(7), Settings.parse(heard_as)
    counts = cells.simulate(random, 9600 / opened.rate, Frame.parse("7E1"), False, FAMILIES["log text"][0], opened.frame)
    kinds = tables.heard_at(opened)[tables.RATES.index(9600), tables.FRAMES.index("7E1"), 0, : tables.KINDS]
    logs = np.log(np.exp(kinds).mean(axis=0))
    assert np.abs(np.exp(logs) - counts.sum(axis=0) / counts.sum()).sum() / 2 < 0.35
    assert np.exp(logs[128:256]).sum() < 0.01


def test_a_receiver_of_another_length_is_simulated_when_asked() -> None:
    random, opened = np.random.default_rng(8), Settings.parse("9600,8E1")
    belief = Belief()
    belief.listen(
        opened, counted(*listened(random, "licence_text", Settings.parse("9600,8N1"), opened, 64, Resync.WAIT_FOR_MARK))
    )
    assert belief.rates()[9600] > 0.5
