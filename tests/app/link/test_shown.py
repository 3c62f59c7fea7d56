"""Proofs of four kinds: what is enough for each, how strong it is, and what would make it stronger."""

from dataclasses import replace

import msgspec
import pytest

from humble_courier.app.link.evidence import Evidence
from humble_courier.app.link.listening import read
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.link.shown import answered
from humble_courier.app.link.step import Action
from humble_courier.app.talk.traffic import Traffic
from humble_courier.catalog.load import Catalog
from humble_courier.documents.base import ConnectorModel
from humble_courier.documents.link import LinkModel, LinkPort
from humble_courier.domain.proven import Grade, ProofKind, Shown
from humble_courier.domain.settings import Settings
from humble_courier.domain.text import Terminator
from humble_courier.errors import BadInput
from humble_courier.port.session import Session
from tests.conftest import until
from tests.trials.ptys import far_end
from tests.trials.streams import SOUND
from tests.trials.test_pulls import at

TALKERS = {
    "nmea-0183": ("wind-sensor", Grade.STRONG, "GPGGA"),
    "j1708": ("valley-tractor", Grade.FAIR, ""),
    "kiss": ("packet-radio", Grade.FAIR, "SKW-2"),
}


def listened(link: OpenLink, catalog: Catalog, device: str | None, pieces: list[bytes], every_s: float = 0.5) -> Evidence:
    """What an hour of a talker shows, in no time."""
    session, evidence = Session(Settings(9600)), Evidence(opened=True)
    here = replace(link.document.link, sheet=catalog.device(device) if device else None)
    for i, piece in enumerate(pieces):
        session.hear(1000.0 + i * every_s, piece, marked=False)
        read(evidence, session, here, 1000.0 + (i + 1) * every_s, catalog)
    return evidence


@pytest.mark.parametrize("protocol", TALKERS)
def test_a_talker_is_proven_by_hearing_it(link: OpenLink, catalog: Catalog, protocol: str) -> None:
    device, grade, name = TALKERS[protocol]
    pieces = [one for one in SOUND[protocol] if protocol != "kiss" or len(one) > 10] * 20
    shown = listened(link, catalog, device, pieces).shown
    assert shown is not None and (shown.kind, shown.grade) == (ProofKind.HEARD, grade)
    assert name in shown.identity["heard"] and f"read as {'NMEA' if grade is Grade.STRONG else ''}" in shown.reason
    assert bool(shown.stronger) == (grade is not Grade.STRONG)


@pytest.mark.parametrize("protocol", TALKERS)
def test_noise_few_messages_and_damaged_ones_prove_nothing(link: OpenLink, catalog: Catalog, protocol: str) -> None:
    device, piece = TALKERS[protocol][0], SOUND[protocol][0]
    few = [piece] * 2
    noisy = [piece[:3] + bytes(9) + piece[-3:-1] + b"\x13" for _ in range(40)]
    burst = [piece * 3]
    for pieces in (few, noisy, burst):
        assert listened(link, catalog, device, pieces).shown is None


def test_a_device_in_no_sheet_that_talks_in_lines_gives_a_weak_proof(link: OpenLink, catalog: Catalog) -> None:
    evidence = listened(link, catalog, None, [b"  12.50 kg\r\n"] * 8)
    shown = evidence.shown
    assert shown is not None and (shown.kind, shown.grade) == (ProofKind.HEARD, Grade.WEAK)
    assert "no check" in shown.reason and "compare a value with its display" in shown.stronger


def test_what_follows_our_words_is_no_talker(link: OpenLink, catalog: Catalog) -> None:
    session, evidence = Session(Settings(9600)), Evidence(opened=True)
    here = replace(link.document.link, sheet=None)
    session.arm("a test")
    for i in range(10):
        session.say(1000.0 + i, "W", Terminator.CR)
        session.hear(1000.2 + i, b"12.50 kg\r\n", marked=False)
        read(evidence, session, here, 1000.9 + i, catalog)
    assert evidence.tally is None and evidence.reply is not None
    assert (evidence.reply.words, evidence.reply.answer, evidence.reply.alike) == ("W", "12.50 kg", 10)
    session.disarm()


def alike(link: OpenLink) -> int:
    return link.evidence.reply.alike if link.evidence.reply is not None else 0


ANSWERS = {b"VER?\r": b"FLOWMETER TWO\r\n", b"LEV\r": b"ABOVE\r\n", b"BAD\r": b"ERROR\r\n"}


def test_a_device_in_no_sheet_reaches_its_proof_by_a_mark(real_link: OpenLink) -> None:
    """A text instrument that names nothing: one press after its answer; strong once another question brings another one."""
    link = real_link
    with far_end(lambda data: ANSWERS.get(data, b"")) as there:
        link.change(without_sheet(link))
        at(link, there.address).listen()
        with pytest.raises(BadInput, match="say something first"):
            link.mark_right()
        link._acts_passed = True
        link.arm()
        for grade in (Grade.FAIR, Grade.STRONG):
            link.say("VER?", Terminator.CR)
            wanted = 1 if grade is Grade.FAIR else 2
            until(
                lambda wanted=wanted: (link.poll(), link.evidence.reply is not None and link.evidence.reply.alike == wanted)[
                    1
                ]
            )  # type: ignore[misc]
            if grade is Grade.FAIR:
                step = link.next_step()
                assert step.action is Action.MARK and "FLOWMETER TWO" in step.text and link.take(step)
            else:
                link.say("LEV", Terminator.CR)
                until(lambda: (link.poll(), "ABOVE" in (link.evidence.reply.answer if link.evidence.reply else ""))[1])
            shown = link.evidence.shown
            assert shown is not None and (shown.kind, shown.grade) == (ProofKind.MARKED, grade)
        link.keep_proof()
        kept = link.proofs()[-1]
        assert (kept.kind, kept.grade, kept.identity["answer"]) == (ProofKind.MARKED, Grade.STRONG, "FLOWMETER TWO")
        assert link.next_step().action is Action.KEEP_DEVICE


def test_a_refusal_is_never_called_right_and_proves_nobody(real_link: OpenLink) -> None:
    """VER? brought ERROR twice, was called right, and stood as a strong proof; the right answer did not replace it."""
    link = real_link
    with far_end(lambda data: ANSWERS.get(data, b"")) as there:
        link.change(without_sheet(link))
        at(link, there.address).listen()
        link._acts_passed = True
        link.arm()
        for count in (1, 2):
            link.say("BAD", Terminator.CR)
            until(lambda count=count: (link.poll(), alike(link) == count)[1])
            assert link.next_step().action is not Action.MARK and not link.evidence.proven
            with pytest.raises(BadInput, match="brought no answer"):
                link.mark_right()
        link.say("VER?", Terminator.CR)
        until(lambda: (link.poll(), link.next_step().action is Action.MARK)[1])
        link.stop()


def without_sheet(link: OpenLink) -> LinkModel:
    """The same link to a device of which nothing is known but its port."""
    signals = {"2": "RXD in rs232", "3": "TXD out rs232", "5": "GND"}
    device = LinkPort(connector=ConnectorModel("D", 9, "plug"), signals=signals)
    return msgspec.structs.replace(link.document.model, device=device)


def test_stronger_proofs_stay_and_of_two_alike_the_first() -> None:
    strong, fair = answered("ID", {"station": "X"}), Shown(ProofKind.MARKED, Grade.FAIR, "called right")
    assert strong.outranks(fair) and strong.outranks(None)
    assert not fair.outranks(strong) and not strong.outranks(replace(strong))
    assert answered("ID", {}).grade is Grade.FAIR and answered("ID", {}).stronger
    assert not Shown(ProofKind.HEARD, Grade.STRONG, "x").outranks(strong) and strong.title == "X"


def test_what_answers_although_the_drawing_says_it_cannot_puts_the_drawing_in_doubt(link: OpenLink) -> None:
    from humble_courier.documents.link_changes import with_part
    from humble_courier.domain.facts import State

    link.change(with_part(link.document.model, 1, "straight-de9"))
    assert link.next_step().action is Action.CHAIN
    link.evidence.shown = answered("ID", {"station": "X"})
    assert link.next_step().action is Action.KEEP_PROOF
    doubted = [place for place in link.places() if place.word == "drawn wrong"]
    assert doubted and all(place.state is State.ASSUMED for place in doubted)
    assert any(fact.text.startswith("The drawing is wrong somewhere") and fact.holds for fact in link.facts())


def test_what_comes_without_errors_and_is_no_text_is_garbled_where_the_device_says_text(
    link: OpenLink, catalog: Catalog
) -> None:
    """7E1 heard as 8N1: no error, and every other character has its top bit set."""
    line = bytes(byte | (0x80 if byte.bit_count() % 2 else 0) for byte in b"LEVEL LOGGER FW 3.1 READY\r\n")
    garbled = listened(link, catalog, "gauge-logger", [line] * 3)
    assert garbled.heard is Traffic.WRONG_SETTINGS and garbled.shown is None
    assert listened(link, catalog, "snow-pillow", [line] * 3).heard is Traffic.BINARY  # there it may be what it is
    assert listened(link, catalog, "gauge-logger", [b"LEVEL LOGGER FW 3.1 READY\r\n"] * 3).heard is Traffic.TEXT


def test_an_echo_is_no_answer(link: OpenLink, catalog: Catalog) -> None:
    session, evidence = Session(Settings(9600)), Evidence(opened=True)
    here = replace(link.document.link, sheet=None)
    session.arm("a test")
    session.say(1000.0, "show", Terminator.CR)
    session.hear(1000.1, b"show\r\r\n", marked=False)
    read(evidence, session, here, 1000.9, catalog)
    assert evidence.reply is None
    session.hear(1001.0, b"v1 ok\r\n", marked=False)
    read(evidence, session, here, 1001.9, catalog)
    assert evidence.reply is not None and evidence.reply.answer == "v1 ok"
    session.disarm()


def test_bytes_in_hexadecimal_are_not_said_again_as_their_letters(link: OpenLink, catalog: Catalog) -> None:
    session, evidence = Session(Settings(9600)), Evidence(opened=True)
    here = replace(link.document.link, sheet=None)
    session.arm("a test")
    for data, offered in ((b"\x01\x03\x00\x00", False), (b"VER?\r", True)):
        session.say_bytes(1000.0, data)
        read(evidence, session, here, 1010.0, catalog)
        assert (evidence.silence is not None) == offered
    session.disarm()


@pytest.mark.parametrize("protocol", TALKERS)
def test_some_sound_messages_among_as_much_noise_prove_nothing(link: OpenLink, catalog: Catalog, protocol: str) -> None:
    piece = SOUND[protocol][0]
    pieces = [piece if i % 2 else bytes((i * 37 + j * 101) % 127 + 1 for j in range(len(piece))) for i in range(40)]
    assert listened(link, catalog, TALKERS[protocol][0], pieces).shown is None
