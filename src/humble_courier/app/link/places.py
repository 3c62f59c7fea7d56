"""The places of the line with their states: what stands where, how far it can be trusted, and the stage it opens."""

from dataclasses import dataclass

from humble_courier.app.link.evidence import Evidence
from humble_courier.app.link.second_visit import Earlier
from humble_courier.app.link.stages import Drawn, Place, Stage
from humble_courier.app.talk.traffic import Traffic
from humble_courier.catalog.links import Link
from humble_courier.domain.facts import State
from humble_courier.domain.proven import ProofKind
from humble_courier.wiring.findings import Severity, Verdict
from humble_courier.wiring.trace import Trace


def places(link: Link, trace: Trace, evidence: Evidence, simulated: bool, earlier: Earlier | None = None) -> list[Place]:
    """All places from the program to what the device says; the settings strip comes last. `earlier`: what worked before."""
    blamed = {f.where: f.text for f in trace.findings if f.severity is not Severity.NOTE}
    shown = _Seen(blamed, evidence.proven, earlier)
    found = [
        Place("program", Drawn.BOX, "Program", "no port limit", State.PROVEN, "this program", Stage.PORT),
        _port(link, evidence, simulated),
    ]
    for node in range(trace.chain.last + 1):
        if node == trace.chain.last:
            break
        if node > 0:
            found.append(_part(link, node, shown, evidence))
        if node == 0 and link.parts and link.parts[0].kind == "usb-adapter":
            continue  # the adapter's USB plug: drawn as one with the port
        joint = trace.chain.joints[node]
        faces = (joint.near.gender, joint.far.gender)
        title = f"{joint.near.contacts} {joint.near.gender} into {joint.far.contacts} {joint.far.gender}"
        state, word = shown.state(f"joint:{joint.index}", "fits")
        found.append(Place(f"joint:{joint.index}", Drawn.JOINT, title, "", state, word, Stage.WIRE, faces))
    found += _far_end(link, trace, shown, evidence)
    found.append(_settings(link, evidence, earlier))
    return found


@dataclass(frozen=True)
class _Seen:
    """What is drawn wrong, whether today proves it all the same, and what an earlier day proved."""

    blamed: dict[str, str]
    proven: bool
    earlier: Earlier | None

    def state(self, id_: str, else_word: str, proven: bool = False) -> tuple[State, str]:
        """Of one place; `proven`: by itself, whatever the link as a whole has shown."""
        if id_ in self.blamed:  # what is measured outranks what is drawn
            return (State.ASSUMED, "drawn wrong") if self.proven else (State.CONTRADICTED, "wrong here")
        if self.proven or proven:
            return State.PROVEN, "proven"
        return (State.EARLIER, self.earlier.short_day) if self.earlier is not None else (State.ASSUMED, else_word)


def _port(link: Link, evidence: Evidence, simulated: bool) -> Place:
    address = link.address or ""
    path = address.removeprefix("/dev/").partition("?")[0]
    title = (path if path.startswith("pts/") else path.rpartition("/")[2]) if address else "no port"
    subtitle = "simulated" if simulated else address.partition("?")[0]
    if not address:
        state, word = State.UNKNOWN, "choose one"
    elif evidence.refusal:
        state, word = State.CONTRADICTED, "gone" if evidence.lost else "refused"
    elif evidence.port_open:
        state, word = State.PROVEN, "open, ours"
    elif evidence.opened:
        state, word = State.PROVEN, "closed; opens"
    else:
        state, word = State.ASSUMED, "not opened yet"
    return Place("port", Drawn.BOX, "sim port" if simulated else title, subtitle, state, word, Stage.PORT)


def _part(link: Link, node: int, shown: _Seen, evidence: Evidence) -> Place:
    part = link.parts[node - 1]
    id_ = f"part:{node}"
    if part.kind == "usb-adapter":
        state, word = shown.state(id_, "not opened yet", proven=evidence.opened)
        level = next((s.level for s in part.ends[1].signals.values() if not s.level.startswith("ground")), "")
        return Place(id_, Drawn.ADAPTER, "USB adapter", str(level).upper().replace("RS", "RS-", 1), state, word, Stage.PORT)
    state, word = shown.state(id_, "not measured")
    name, _, rest = part.name.partition(",")
    subtitle = rest.strip() or (f"{part.length_m:g} m" if part.length_m else "")
    if rest and part.length_m:
        subtitle = f"{rest.strip()}, {part.length_m:g} m"
    return Place(id_, Drawn.CABLE if part.kind == "cable" else Drawn.ADAPTER, name, subtitle, state, word, Stage.WIRE)


def _far_end(link: Link, trace: Trace, seen: _Seen, evidence: Evidence) -> list[Place]:
    wired = any(s.name.upper() == "TXD" and s.direction == "out" for s in link.device.signals.values())
    level = next((s.level for s in link.device.signals.values() if s.level != "ground"), "")
    kind = f"{str(level).upper().replace('RS', 'RS-', 1)}{', DTE' if wired else ''}"
    state, word = seen.state("device", "documented" if link.sheet else "as said")
    found = [Place("device-port", Drawn.BOX, link.device.name, kind, state, word, Stage.WIRE)]
    name = link.sheet.name if link.sheet else "Device"
    state, word = State.UNKNOWN, "not proven"
    if evidence.shown is not None:
        state, word = State.PROVEN, "talks" if evidence.shown.kind is ProofKind.HEARD else "answers"
    elif evidence.reply is not None:
        state, word = State.ASSUMED, "says something"
    elif evidence.greeting is not None:
        state, word = State.ASSUMED, "alive"
    elif evidence.silence is not None or evidence.unanswered:
        state, word = State.CONTRADICTED, "silent now" if seen.earlier is not None else "silent"
    elif seen.earlier is not None:
        state, word = State.EARLIER, f"{seen.earlier.verb} {seen.earlier.short_day}"
    found.append(Place("device", Drawn.DEVICE, name, "", state, word, Stage.PREPARE))
    words, state = _speech(trace, evidence, seen.earlier)
    found.append(Place("speech", Drawn.SPEECH, words, "", state, "says", Stage.TALK))
    return found


def _speech(trace: Trace, evidence: Evidence, earlier: Earlier | None) -> tuple[str, State]:
    if evidence.shown is not None:
        return evidence.shown.title, State.PROVEN
    if evidence.heard is Traffic.WRONG_SETTINGS:
        return "garbled", State.CONTRADICTED
    if evidence.greeting is not None:
        return "power-up line heard", State.ASSUMED
    if evidence.heard is not Traffic.NOTHING:
        return "something heard", State.ASSUMED
    if earlier is not None and not (evidence.silence is not None or evidence.unanswered):
        return "nothing yet", State.UNKNOWN
    if not evidence.opened:
        return "not listened yet", State.UNKNOWN
    works = trace.verdict in (Verdict.WORKS, Verdict.WITHOUT_HANDSHAKE)
    return "silent so far" if works else "silent", State.UNKNOWN


def _settings(link: Link, evidence: Evidence, earlier: Earlier | None) -> Place:
    ours, theirs = link.computer_settings, link.device_settings
    title = f"computer {ours.spoken if ours else '?'}|device {theirs.spoken if theirs else '?'}"
    if ours is None or theirs is None:
        return Place("settings", Drawn.SETTINGS, title, "settings unknown", State.UNKNOWN, "unknown", Stage.SETTINGS)
    if ours.differences(theirs):
        word = "settings differ"
        return Place("settings", Drawn.SETTINGS, title, word, State.CONTRADICTED, "differ", Stage.SETTINGS)
    if evidence.proven:
        word = "settings agree (measured)"
        return Place("settings", Drawn.SETTINGS, title, word, State.PROVEN, "agree", Stage.SETTINGS)
    if earlier is not None:
        word = f"settings agreed {earlier.short_day}"
        return Place("settings", Drawn.SETTINGS, title, word, State.EARLIER, "agreed", Stage.SETTINGS)
    source = "documented" if link.sheet and link.model.settings.device is None else "as set here"
    return Place("settings", Drawn.SETTINGS, title, f"settings agree ({source})", State.ASSUMED, "agree", Stage.SETTINGS)
