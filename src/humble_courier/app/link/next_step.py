"""The one recommended next action, with its reason and its cost; the first thing that stands in the way comes first."""

from collections.abc import Collection, Sequence

from humble_courier.app.link.evidence import Evidence
from humble_courier.app.link.next_words import KLINE, first_words, only_listens
from humble_courier.app.link.stages import Stage, TalkPage, WirePage
from humble_courier.app.link.step import Action, NextStep
from humble_courier.app.talk.reading import reading_of
from humble_courier.app.talk.traffic import Traffic
from humble_courier.app.wire.chains import better_chain
from humble_courier.app.wire.proposals import best, in_a_sentence
from humble_courier.catalog.links import Link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.kit import KitModel
from humble_courier.domain.proven import Shown
from humble_courier.protocols.registry import all_specs
from humble_courier.protocols.spec import Check
from humble_courier.wiring.findings import Verdict
from humble_courier.wiring.trace import Trace


def next_step(
    link: Link, trace: Trace, evidence: Evidence, catalog: Catalog, kit: KitModel, listening: bool, armed: bool,
    ready_in_s: int = 0, undone: Sequence[str] = (), said: Collection[str] = (),
) -> NextStep:  # fmt: skip
    """What to do now. The wiring first, then the settings, then the port, then the words, once the device is ready.

    `undone`: acts of the sheet before the first words that are not ticked; `said`: what we have said in this session.
    """
    blocked = _in_the_way(link, trace, evidence, catalog, kit)
    if blocked is not None:
        return blocked
    not_its_own = link.sheet is None or catalog.is_kind(link.sheet.id)
    return _to_the_proof(link, evidence, listening, armed, ready_in_s, undone, said, not_its_own)


def _in_the_way(link: Link, trace: Trace, evidence: Evidence, catalog: Catalog, kit: KitModel) -> NextStep | None:
    """What has to be put right before the port is opened: wiring, settings, the port itself."""
    harmful = trace.verdict is Verdict.MAY_DAMAGE
    if harmful:
        return _mend_wiring(link, kit, catalog)
    if evidence.searching:
        text = "The search goes on until something answers; Find a silent device shows what it does."
        return NextStep(text, "a while", "Wait", Action.WAIT, stage=Stage.TALK, page=TalkPage.FIND)
    if evidence.found is not None:
        text = f"The search found it at {evidence.found.settings.spoken}: “{evidence.found.identity}”. Go on from there."
        return NextStep(text, "seconds", "Open with it", Action.ADOPT, stage=Stage.TALK, page=TalkPage.LISTEN)
    if trace.verdict is Verdict.WILL_NOT_WORK and not evidence.proven and not evidence.reached:
        return _mend_wiring(link, kit, catalog)
    ours, theirs = link.computer_settings, link.device_settings
    over_network = (link.address or "").startswith("socket://")  # a network port of the device itself has no rate
    if ours is not None and theirs is not None and ours.differences(theirs) and not over_network:
        differ = ", ".join(ours.differences(theirs))
        text = f"The ends differ in {differ}. Setting the computer is the quicker way: nothing is stored in the device."
        return NextStep(text, "seconds", f"Open at {theirs.spoken}", Action.SETTINGS, settings=theirs)
    if not link.address:
        text = "Choose the port that the adapter made."
        return NextStep(text, "1 minute", "Choose a port", Action.CHOOSE_PORT, stage=Stage.PORT)
    if evidence.refusal:
        return _after_a_refusal(evidence)
    return None


def _to_the_proof(
    link: Link, evidence: Evidence, listening: bool, armed: bool, ready_in_s: int, undone: Sequence[str],
    said: Collection[str], not_its_own: bool,
) -> NextStep:  # fmt: skip
    """From the open port to the proof."""
    if not listening and not evidence.proven:
        text = "Listen first; nothing is sent. Opening the port shows whether it is yours and what arrives by itself."
        return NextStep(text, "seconds", "Listen", Action.LISTEN, stage=Stage.TALK)
    if evidence.shown is not None:
        return _after_the_proof(evidence, evidence.shown, not_its_own)
    if evidence.reply is not None and (not_its_own or evidence.unanswered or not (link.sheet and link.sheet.first_words)):
        text = f"“{evidence.reply.words}” was answered “{evidence.reply.answer}”. If that is right, it proves this link."
        return NextStep(text, "seconds", "It is right", Action.MARK, stage=Stage.TALK, page=TalkPage.LISTEN)
    if ready_in_s:
        text = f"It is starting up; what is sent now may stop it. It may be spoken to in {ready_in_s} s, says its sheet."
        return NextStep(text, f"{ready_in_s} s", "Wait", Action.WAIT, stage=Stage.TALK)
    speaks = listening and _only_speaks(link)
    if speaks and evidence.heard not in (Traffic.NOTHING, Traffic.WRONG_SETTINGS):
        return _listen_on(evidence)
    if undone and not armed:
        more = f" {len(undone) - 1} more acts of its sheet follow." if len(undone) > 1 else ""
        text = f"Before it is spoken to: {undone[0]}.{more} Tick what is done."
        return NextStep(text, "minutes", "Open Prepare", Action.PREPARE, stage=Stage.PREPARE)
    if speaks and evidence.heard is Traffic.NOTHING:
        return _listen_on(evidence)
    if not armed:
        return _before_arming(link, evidence)
    return first_words(link, evidence, said)


def _only_speaks(link: Link) -> bool:
    """Whether its sheet knows nothing to ask it, and it speaks by itself in messages with a check."""
    sheet = link.sheet
    if sheet is None or sheet.first_words or sheet.port.protocol == KLINE or only_listens(link):
        return False
    if reading_of(link) is not None:
        return False
    spec = all_specs().get(sheet.port.protocol)
    return spec is not None and spec.check is not Check.NONE


def _listen_on(evidence: Evidence) -> NextStep:
    count = evidence.tally.sound if evidence.tally is not None else 0
    if evidence.heard is Traffic.NOTHING:
        text = "It speaks by itself, and nothing has come yet. Is it on, and in the mode in which it speaks?"
    else:
        text = f"It speaks by itself: {count} whole messages so far. Listen on; enough of them prove the link."
    return NextStep(text, "seconds", "Wait", Action.WAIT, stage=Stage.TALK, page=TalkPage.LISTEN)


def _after_a_refusal(evidence: Evidence) -> NextStep:
    text = f"{'The port is gone' if evidence.lost else 'The port was refused'}. "
    told = text + (evidence.remedy or evidence.refusal) + "."
    if evidence.refusals > 1:
        told = f"{evidence.refusal[0].upper()}{evidence.refusal[1:]}; trying again changed nothing. See what is plugged in."
        return NextStep(told, "1 minute", "Look at the ports", Action.LOOK_PORT, stage=Stage.PORT)
    return NextStep(told, "1 minute", "Try again", Action.LISTEN, stage=Stage.TALK)


def _mend_wiring(link: Link, kit: KitModel, catalog: Catalog) -> NextStep:
    better = better_chain(link, kit, catalog)
    made = best(link, kit, catalog) if better is None else None
    if made is not None:
        return NextStep(in_a_sentence(made), "half an hour", "Put it in", Action.CHAIN, chain=made.model)
    if better is None:
        text = "No chain of standard parts mends this. Look at the marked place on the map, or build a cable."
        return NextStep(text, "an hour", "Build a cable", Action.BUILD, stage=Stage.WIRE, page=WirePage.BUILD)
    where = "" if better.in_kit else " It is not in your kit."
    text = f"{better.text}{where} Then transmit meets receive."
    return NextStep(text, "1 minute", "Put it in", Action.CHAIN, chain=better.model)


def _before_arming(link: Link, evidence: Evidence) -> NextStep:
    sheet = link.sheet
    if evidence.heard is Traffic.NOTHING and sheet and sheet.power_up:
        text = (
            f"It speaks by itself {sheet.power_up.after_s:g} s after power is applied: switch the device off and on, "
            "and wait. If it stays silent, arm and ask."
        )
        return NextStep(text, "1 minute", "Arm", Action.ARM, stage=Stage.TALK)
    if evidence.heard is Traffic.WRONG_SETTINGS:
        text = "Garbled although the settings agree on paper: the device is set otherwise. Read its switches again."
        return NextStep(text, "2 minutes", "Show settings", Action.SHOW_SETTINGS, stage=Stage.SETTINGS)
    text = "Arm, so that the first words can be sent. They change nothing in the device."
    return NextStep(text, "seconds", "Arm", Action.ARM, stage=Stage.TALK)


def _after_the_proof(evidence: Evidence, shown: Shown, not_its_own: bool) -> NextStep:
    if not evidence.proof_kept:
        more = f" To make it stronger: {shown.stronger}." if shown.stronger else ""
        text = f"A {shown.grade.value} proof: {shown.reason}.{more} Port, chain, settings and words go into the record."
        return NextStep(text, "seconds", "Keep the proof", Action.KEEP_PROOF)
    if not_its_own:
        text = "The proof is kept. Keep the device as your own: then its words, settings and acts are known everywhere."
        return NextStep(text, "1 minute", "Keep this device", Action.KEEP_DEVICE, stage=Stage.TALK, page=TalkPage.KEEP)
    text = "The proof is kept. Take the link sheet along; it makes the next visit short."
    return NextStep(text, "seconds", "Link sheet", Action.PAPER)
