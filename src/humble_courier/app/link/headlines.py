"""Headline and reason of the Port and Talk stages: the answer to the stage's question, as a sentence."""

from humble_courier.app.link.evidence import Reply, Silence
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.link.second_visit import Earlier
from humble_courier.app.port.opening import open_lines
from humble_courier.app.talk.traffic import Traffic
from humble_courier.domain.proven import ProofKind, Shown
from humble_courier.domain.text import Terminator
from humble_courier.exchange.verdict import ExchangeState
from humble_courier.port.port import OpenLines
from humble_courier.port.session import Session

_BEGINS = dict.fromkeys(ProofKind, "It answers") | {ProofKind.HEARD: "It talks"}


def port_headline(open_link: OpenLink) -> tuple[str, str]:
    """Which port is it, and can it be opened?"""
    address = open_link.document.port
    if not address:
        return "No port is chosen yet", "Pick the adapter's port from the list, or type an address."
    if open_link.evidence.refusal:
        return _refusal(open_link)
    if open_link.live.listening:
        return f"{address} is open, and ours", "Listening only; nothing is sent until you arm."
    if open_link.document.simulated:
        reason = "A simulated port: the parts and settings of this link are the bench. No real machine is touched."
        return f"{address} is ready to be opened", reason
    return f"{address} is chosen, not opened yet", "Opening it shows whether it is yours. Nothing is sent."


def _refusal(open_link: OpenLink) -> tuple[str, str]:
    evidence = open_link.evidence
    headline = "The port is gone" if evidence.lost else "The port could not be opened"
    reason = evidence.refusal[0].upper() + evidence.refusal[1:] + "."
    return headline, f"{reason} {evidence.remedy}." if evidence.remedy else reason


def adapter_story(open_link: OpenLink) -> tuple[str, str, str]:
    """Caution, what is plugged in, and what opening the port does to DTR and RTS."""
    link = open_link.document.link
    adapter = next((part for part in link.parts if part.kind == "usb-adapter"), None)
    opening = _at_opening(open_lines(link.sheet), known=link.sheet is not None)
    if adapter is None:
        return "", f"{link.computer.name}: the port of the computer itself.", opening
    signals = adapter.ends[1].signals
    sends = ", ".join(f"{s.name} on {contact}" for contact, s in signals.items() if s.direction == "out")
    story = f"{adapter.name}: {adapter.ends[1].connector}" + (f"; it sends {sends}." if sends else ".")
    return open_link.catalog.cautions["usb-socket"].text, story, opening


def _at_opening(lines: OpenLines, known: bool) -> str:
    low = [name for name, raised in (("DTR", lines.dtr), ("RTS", lines.rts)) if not raised]
    if not low:
        return "Opening raises DTR and RTS; the sheet of this device allows it."
    names = " and ".join(low)
    why = "as the device sheet asks" if known else "as nobody knows yet what this device does with them"
    return (
        f"Opening holds {names} low, {why}. Linux raises them for an instant all the same: leave {names} unconnected where "
        "that does harm."
    )


def talk_headline(open_link: OpenLink) -> tuple[str, str]:
    """Does it answer?"""
    evidence, session = open_link.evidence, open_link.live.session
    if evidence.refusal:
        return _refusal(open_link)
    if evidence.shown is not None:
        return _proven(open_link, evidence.shown, session)
    earlier = open_link.earlier
    if earlier is not None and not (session is not None and (session.bytes_heard or session.last_said)):
        return _once(earlier, open_link.live.listening)
    if session is None:
        return "Nothing has been listened to yet", "Listening opens the port and sends nothing."
    if evidence.heard is Traffic.WRONG_SETTINGS:
        which = f"It looks like {evidence.likelier}" if evidence.likelier else "The ends are set differently"
        return "Something arrives, garbled", f"{session.summary.capitalize()}. {which}: see Settings."
    if evidence.greeting is not None and (wait := open_link.ready_in_s):
        return "It is alive, and still starting up", f"It may be spoken to in {wait} s, says its sheet; until then wait."
    if evidence.greeting is not None:
        return "It is alive: its power-up line came through", f"{session.summary.capitalize()}. Now ask who it is."
    if evidence.adapter and evidence.unanswered:
        return "The adapter answers, the bus behind it is silent", "Key on? Fuse? The bus's own rate? Something awake on it?"
    if evidence.echoed:
        return _only_echo(evidence.echoed)
    return _without_proof(open_link, session)


def _without_proof(open_link: OpenLink, session: Session) -> tuple[str, str]:
    """A reply that proves nobody, bytes that are no reply, or silence."""
    evidence = open_link.evidence
    if evidence.reply is not None:
        return _replied(evidence.reply)
    if session.bytes_heard:
        return "Something arrives", f"{session.summary.capitalize()}."
    if evidence.silence is not None:
        return _silent(open_link, evidence.silence)
    return _nothing_yet(open_link)


def _only_echo(words: str) -> tuple[str, str]:
    """Our own words, and nothing else."""
    reason = "The device or an adapter echoes, a plug loops back, or two conductors touch: nobody has answered."
    return f"Only “{words}” itself came back", reason


def _replied(reply: Reply) -> tuple[str, str]:
    """A reply that proves nobody: what it shows all the same."""
    if reply.may_be_right:
        reason = f"“{reply.words}” brought “{reply.answer}”. Only you can say whether that is right."
        return "It replies; what it says is not known", reason
    carries = "Both conductors carry, and settings and ending are right; it proves nobody."
    headline = {
        ExchangeState.REFUSED: f"It refuses “{reply.words}”", ExchangeState.ACKNOWLEDGED: f"It takes “{reply.words}”",
        ExchangeState.PROMPT: "It waits for words", ExchangeState.MORE: "It goes on after a key",
        ExchangeState.GARBLED: "Something arrives, garbled",
    }.get(reply.state, "Something came")  # fmt: skip
    brought = f"“{reply.words}” brought “{reply.answer}”."
    return headline, brought if reply.state is ExchangeState.GARBLED else f"{brought} {carries}"


def _nothing_yet(open_link: OpenLink) -> tuple[str, str]:
    if open_link.document.trace.findings:
        return "Silent", "The wiring has a fault: see the mark on the line. Nothing can arrive before that is mended."
    return "Silent so far", "Listening. A device that speaks only when asked stays silent until you arm and ask."


def _silent(open_link: OpenLink, silence: Silence) -> tuple[str, str]:
    link, ended = open_link.document.link, silence.end.spoken
    headline = f"Nothing came after “{silence.words}” with {ended}"
    if link.sheet is None:
        return headline, "Try another end of the line, look at its power, or search for its settings."
    wanted = Terminator(link.sheet.end)
    if wanted is not silence.end:
        return headline, f"Its sheet ends lines with {wanted.spoken}, and this was ended with {ended}."
    return headline, f"{ended} is what its sheet says. It may want another end all the same, or be without power."


def _once(earlier: Earlier, listening: bool) -> tuple[str, str]:
    """On a second visit, before anything of today is known."""
    count = len(earlier.asked_again())
    now = "Listening" if listening else "The port is not open yet"
    reason = f"{earlier.shown.grade.value.capitalize()} proof then: {earlier.shown.reason}. {now}; {earlier.since}."
    if not count:
        return f"It {earlier.verb} {earlier.day}; {earlier.since}", reason
    same = "the same question" if count == 1 else f"the same {count} questions"
    return f"Ask again: {same} as {earlier.day}", reason


def _proven(open_link: OpenLink, shown: Shown, session: Session | None) -> tuple[str, str]:
    names = {"answered": "", "asked": "", "heard": "", "answer": ""}  # told by the headline itself
    who = ", ".join(f"{names.get(name, name)} {value}".strip() for name, value in shown.identity.items())
    headline = f"{_BEGINS[shown.kind]}: {who}" if who else _BEGINS[shown.kind]
    reason = f"{shown.grade.value.capitalize()} proof: {shown.reason}." if shown.reason else ""
    drawing, evidence = open_link.earlier_drawing, open_link.evidence
    if drawing:
        reason = f"Shown with the earlier drawing ({drawing}): ask once more to show it with this one. {reason}"
    if session is None:
        return headline, reason
    if evidence.answer_ms is not None and shown.kind in (ProofKind.ANSWERED, ProofKind.READ):
        reason = f"First answer {evidence.answer_ms:.0f} ms after the question. {reason}"
    return headline, f"{reason} {session.summary.capitalize()}."
