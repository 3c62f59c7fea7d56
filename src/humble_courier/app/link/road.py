"""The one recommended next act: of the ways towards the proof the one that is cheapest for its chance.

Theory of operation. The proof lies at the end of a road of stations: nothing may be damaged, the wiring carries, the ends
are alike, there is a port, it opens, the device is ready, we may speak, it has answered, the proof is kept. What is seen
tells which stations are reached; of the ways to the first one that is not, the one with the fewest minutes for its chance
is told, in the order in which a diagnosis tries mends (`diagnose.choice`). Where something has failed, the ways are what
the diagnosis of this link says is worth most now (`failed_ways.py`).
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from humble_courier.app.link.failed_ways import failed
from humble_courier.app.link.seen import LinkSeen
from humble_courier.app.link.stages import Stage, TalkPage
from humble_courier.app.link.step import Action, NextStep
from humble_courier.app.link.wiring_ways import mended_wiring
from humble_courier.app.link.word_ways import KLINE, heard_on, only_listens, said
from humble_courier.app.talk.reading import reading_of
from humble_courier.app.talk.traffic import Traffic
from humble_courier.protocols.registry import all_specs
from humble_courier.protocols.spec import Check
from humble_courier.wiring.findings import Verdict


@dataclass(frozen=True)
class Station:
    """A place on the road: whether it is behind us, and the ways to it where it is not."""

    reached: Callable[[LinkSeen], bool]
    ways: Callable[[LinkSeen], Sequence[NextStep]]


def next_step(seen: LinkSeen) -> NextStep:
    """What to do now."""
    return min(_ways(ROAD, seen), key=lambda step: step.minutes / step.chance)


def _ways(road: Sequence[Station], seen: LinkSeen) -> Sequence[NextStep]:
    """Ways to the first station that is not reached; the last one never is."""
    return next(station for station in road if not station.reached(seen)).ways(seen)


# Up to the port


def _harmless(seen: LinkSeen) -> bool:
    return seen.trace.verdict is not Verdict.MAY_DAMAGE


def _search(_seen: LinkSeen) -> list[NextStep]:
    text = "The search goes on until something answers; Find a silent device shows what it does."
    return [NextStep(text, 2, "Wait", Action.WAIT, stage=Stage.TALK, page=TalkPage.FIND)]


def _found(seen: LinkSeen) -> list[NextStep]:
    found = seen.evidence.found
    assert found is not None, "a station that is not reached has something found"
    text = f"The search found it at {found.settings.spoken}: “{found.identity}”. Go on from there."
    return [NextStep(text, 0.1, "Open with it", Action.ADOPT, stage=Stage.TALK, page=TalkPage.LISTEN)]


def _wired(seen: LinkSeen) -> bool:
    """What is measured outranks what is drawn: an answer came, so the drawing is what is doubted."""
    return seen.trace.verdict is not Verdict.WILL_NOT_WORK or seen.evidence.proven or seen.evidence.reached


def _differences(seen: LinkSeen) -> list[str]:
    ours, theirs = seen.link.computer_settings, seen.link.device_settings
    over_network = (seen.link.address or "").startswith("socket://")  # a network port of the device itself has no rate
    return list(ours.differences(theirs)) if ours is not None and theirs is not None and not over_network else []


def _made_alike(seen: LinkSeen) -> list[NextStep]:
    theirs = seen.link.device_settings
    assert theirs is not None, "ends that differ are both known"
    differ = ", ".join(_differences(seen))
    text = f"The ends differ in {differ}. Setting the computer is the quicker way: nothing is stored in the device."
    return [NextStep(text, 0.1, f"Open at {theirs.spoken}", Action.SETTINGS, settings=theirs)]


def _a_port(_seen: LinkSeen) -> list[NextStep]:
    text = "Choose the port that the adapter made."
    return [NextStep(text, 1, "Choose a port", Action.CHOOSE_PORT, stage=Stage.PORT)]


def _after_a_refusal(seen: LinkSeen) -> list[NextStep]:
    evidence = seen.evidence
    if evidence.refusals > 1:
        what = f"{evidence.refusal[0].upper()}{evidence.refusal[1:]}; trying again changed nothing"
        look = f"{what}. See what is plugged in."
        return failed(seen, what, NextStep(look, 1, "Look at the ports", Action.LOOK_PORT, stage=Stage.PORT))
    text = f"{'The port is gone' if evidence.lost else 'The port was refused'}. {evidence.remedy or evidence.refusal}."
    return [NextStep(text, 1, "Try again", Action.LISTEN, stage=Stage.TALK)]


def _worked_before(seen: LinkSeen) -> bool:
    """Whether what worked on an earlier day is to be asked again: nothing of today says anything of it yet."""
    evidence, earlier = seen.evidence, seen.earlier
    if earlier is None or not earlier.asked_again() or evidence.proven or evidence.asking or seen.said:
        return False
    if seen.alone and not seen.listening:
        return False  # by itself it listens first
    return not seen.ready_in_s and evidence.heard is not Traffic.WRONG_SETTINGS


def _again(seen: LinkSeen) -> list[NextStep]:
    earlier = seen.earlier
    assert earlier is not None, "what is asked again was asked before"
    words = ", ".join(one.words for one in earlier.asked_again())
    before = f" Before it, and ticked for today by pressing: {'; '.join(seen.undone)}." if seen.undone else ""
    text = f"It {earlier.verb} {earlier.day}. Ask again: it opens the port and says {words}.{before}"
    return [NextStep(text, 0.2, "Ask again", Action.ASK_AGAIN, stage=Stage.TALK, page=TalkPage.LISTEN)]


def _typed_before(seen: LinkSeen) -> bool:
    earlier = seen.earlier
    return earlier is not None and bool(earlier.questions) and not earlier.asked_again() and not seen.said and not seen.alone


def _type_again(seen: LinkSeen) -> list[NextStep]:
    earlier = seen.earlier
    assert earlier is not None, "what is typed again was typed before"
    first = earlier.questions[0]
    text = (
        f"“{first.words}” brought “{first.answer}” {earlier.day}. Nobody said that it only asks: "
        "it is put into the field, and you send it."
    )
    return [NextStep(text, 0.2, "Put it there", Action.TYPE, words=first.words, stage=Stage.TALK, page=TalkPage.LISTEN)]


def _listen(_seen: LinkSeen) -> list[NextStep]:
    text = "Listen first; nothing is sent. Opening the port shows whether it is yours and what arrives by itself."
    return [NextStep(text, 0.1, "Listen", Action.LISTEN, stage=Stage.TALK)]


# From the open port to an answer


def _to_be_marked(seen: LinkSeen) -> bool:
    sheet, evidence = seen.link.sheet, seen.evidence
    of_a_person = seen.not_its_own or bool(evidence.unanswered) or not (sheet and sheet.first_words)
    return evidence.reply is not None and evidence.reply.may_be_right and of_a_person


def _mark(seen: LinkSeen) -> list[NextStep]:
    reply = seen.evidence.reply
    assert reply is not None, "what is to be marked was answered"
    text = f"“{reply.words}” was answered “{reply.answer}”. If that is right, it proves this link."
    return [NextStep(text, 0.1, "It is right", Action.MARK, stage=Stage.TALK, page=TalkPage.LISTEN)]


def _starts_up(seen: LinkSeen) -> list[NextStep]:
    wait = seen.ready_in_s
    text = f"It is starting up; what is sent now may stop it. It may be spoken to in {wait} s, says its sheet."
    return [NextStep(text, wait / 60, "Wait", Action.WAIT, stage=Stage.TALK)]


def _only_speaks(seen: LinkSeen) -> bool:
    """Whether its sheet knows nothing to ask it, and it speaks by itself in messages with a check."""
    sheet = seen.link.sheet
    if not seen.listening or sheet is None or sheet.first_words or sheet.port.protocol == KLINE:
        return False
    if only_listens(seen.link) or reading_of(seen.link) is not None:
        return False
    spec = all_specs().get(sheet.port.protocol)
    return spec is not None and spec.check is not Check.NONE


def _speaks_well(seen: LinkSeen) -> bool:
    return _only_speaks(seen) and seen.evidence.heard not in (Traffic.NOTHING, Traffic.WRONG_SETTINGS)


def _speaks_not_yet(seen: LinkSeen) -> bool:
    return _only_speaks(seen) and seen.evidence.heard is Traffic.NOTHING


def _prepare(seen: LinkSeen) -> list[NextStep]:
    undone = seen.undone
    more = f" {len(undone) - 1} more acts of its sheet follow." if len(undone) > 1 else ""
    text = f"Before it is spoken to: {undone[0]}.{more} Tick what is done."
    return [NextStep(text, 2, "Open Prepare", Action.PREPARE, stage=Stage.PREPARE)]


def _arm(seen: LinkSeen) -> list[NextStep]:
    sheet, heard = seen.link.sheet, seen.evidence.heard
    if heard is Traffic.WRONG_SETTINGS:
        what = "Garbled although the settings agree on paper: the device is set otherwise"
        read = f"{what}. Read its switches again."
        return failed(seen, what, NextStep(read, 2, "Show settings", Action.SHOW_SETTINGS, stage=Stage.SETTINGS))
    text = "Arm, so that the first words can be sent. They change nothing in the device."
    if heard is Traffic.NOTHING and sheet and sheet.power_up:
        text = (
            f"It speaks by itself {sheet.power_up.after_s:g} s after power is applied: switch the device off and on, "
            "and wait. If it stays silent, arm and ask."
        )
    return [NextStep(text, 0.1, "Arm", Action.ARM, stage=Stage.TALK)]


TO_AN_ANSWER = (
    Station(lambda seen: not _to_be_marked(seen), _mark),
    Station(lambda seen: not seen.ready_in_s, _starts_up),
    Station(lambda seen: not _speaks_well(seen), heard_on),
    Station(lambda seen: not seen.undone or seen.armed, _prepare),
    Station(lambda seen: not _speaks_not_yet(seen), heard_on),
    Station(lambda seen: seen.armed, _arm),
    Station(lambda seen: not _typed_before(seen), _type_again),
    Station(lambda _: False, said),
)


# After it


def _keep(seen: LinkSeen) -> list[NextStep]:
    shown = seen.evidence.shown
    assert shown is not None, "only what is proven is kept"
    more = f" To make it stronger: {shown.stronger}." if shown.stronger else ""
    text = f"A {shown.grade.value} proof: {shown.reason}.{more} Port, chain, settings and words go into the record."
    return [NextStep(text, 0.1, "Keep the proof", Action.KEEP_PROOF)]


def _keep_device(_seen: LinkSeen) -> list[NextStep]:
    text = "The proof is kept. Keep the device as your own: then its words, settings and acts are known everywhere."
    return [NextStep(text, 1, "Keep this device", Action.KEEP_DEVICE, stage=Stage.TALK, page=TalkPage.KEEP)]


def _paper(_seen: LinkSeen) -> list[NextStep]:
    text = "The proof is kept. Take the link sheet along; it makes the next visit short."
    return [NextStep(text, 0.1, "Link sheet", Action.PAPER)]


ROAD = (
    Station(_harmless, mended_wiring),
    Station(lambda seen: not seen.evidence.searching, _search),
    Station(lambda seen: seen.evidence.found is None, _found),
    Station(_wired, mended_wiring),
    Station(lambda seen: not _differences(seen), _made_alike),
    Station(lambda seen: bool(seen.link.address), _a_port),
    Station(lambda seen: not seen.evidence.refusal, _after_a_refusal),
    Station(lambda seen: not _worked_before(seen), _again),
    Station(lambda seen: seen.listening or seen.evidence.proven, _listen),
    Station(lambda seen: seen.evidence.proven, lambda seen: _ways(TO_AN_ANSWER, seen)),
    Station(lambda seen: seen.evidence.proof_kept, _keep),
    Station(lambda seen: not seen.not_its_own, _keep_device),
    Station(lambda _: False, _paper),
)
