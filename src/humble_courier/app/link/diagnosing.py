"""The diagnosis of the link that is open: what its session shows by itself, and where each check is done.

Begun anew when the link is another one. The true cause is noted once the device has answered, and counts from then on: what
this person has met before is met again.
"""

from collections import Counter
from collections.abc import Mapping
from typing import TYPE_CHECKING

from humble_courier.app.link.evidence import Evidence
from humble_courier.app.link.failed_ways import USUAL_ENDS
from humble_courier.app.link.proof import make_proof
from humble_courier.app.link.stages import SettingsPage, Stage, TalkPage, WirePage
from humble_courier.app.prepare.sheet_acts import LAMP
from humble_courier.app.talk.traffic import Traffic
from humble_courier.catalog.kits import resolve_kit
from humble_courier.domain.text import Terminator
from humble_courier.errors import BadInput, Refusal
from humble_courier.wiring.findings import Verdict

if TYPE_CHECKING:  # causes, checks and the search come when it is asked: a link is on the line before
    from humble_courier.app.diagnose.diagnosis import Diagnosis
    from humble_courier.app.diagnose.own_check import OwnCheckRun
    from humble_courier.app.link.open_link import OpenLink
    from humble_courier.procedures.device_search.found import Found
    from humble_courier.records.store import Store

Page = WirePage | SettingsPage | TalkPage | None
# Where a check is done that has a place of its own in the program.
WHERE: Mapping[str, tuple[Stage, Page]] = {
    "list-ports": (Stage.PORT, None), "kernel-log": (Stage.PORT, None), "pull-and-put-back": (Stage.PORT, None),
    "device-search": (Stage.TALK, TalkPage.FIND), "other-units": (Stage.TALK, TalkPage.FIND),
    "long-transfer": (Stage.TALK, TalkPage.PROVE), "latency-test": (Stage.TALK, TalkPage.PROVE),
    "loop-adapter": (Stage.TALK, TalkPage.PROVE), "loop-cable": (Stage.TALK, TalkPage.PROVE),
    "meter-cable": (Stage.WIRE, WirePage.CABLE), "volts": (Stage.WIRE, WirePage.PORT),
    "cross": (Stage.WIRE, WirePage.CHOOSE),
    "trace": (Stage.WIRE, WirePage.FOLLOW), "judge-bytes": (Stage.SETTINGS, SettingsPage.SEE),
    "read-switches": (Stage.SETTINGS, SettingsPage.SWITCHES), "read-settings": (Stage.SETTINGS, SettingsPage.SEE),
    "bus-plan": (Stage.SETTINGS, SettingsPage.ADDRESS), "read-address": (Stage.SETTINGS, SettingsPage.ADDRESS),
    "acts-done": (Stage.PREPARE, None),
}  # fmt: skip
BY_LISTENING = ("open", "lines")  # seen as soon as the port is open
MET_TIMES = 1.0  # by how much each earlier time makes a cause likelier, in times its usual weight (common practice)
CAUSE = "cause "  # subject of the fact that keeps the true cause
REFUSED = {
    Refusal.NO_PERMISSION: "no-permission", Refusal.HELD: "held", Refusal.LOCKED: "held", Refusal.ABSENT: "gone",
    Refusal.GONE: "gone",
}  # fmt: skip
CHANGES = (("chain", "wiring"), ("port", "port"), ("computer_settings", "settings"), ("device_settings", "settings"))


class LinkDiagnosis:
    """Of one open link. Ask `look` for the diagnosis, with all that is known at this moment."""

    def __init__(self, link: "OpenLink", store: "Store") -> None:
        self._link, self._store = link, store
        self._model: object = None
        self._diagnosis: Diagnosis | None = None
        self._elsewhere: dict[str, str] = {}
        self._machine: tuple[int, dict[str, str]] = (0, {})  # at which refusal the machine was looked at; what it showed

    def seen_elsewhere(self, check: str, outcome: str) -> None:
        """What another stage brought, that is a check too: a plug, a meter, a long transfer. It holds for this wiring."""
        self.look()
        self._elsewhere[check] = outcome

    @property
    def asks_machine(self) -> bool:
        """Whether a port of this machine was refused, and nobody has looked yet what the machine says of it."""
        refusals = self._link.evidence.refusals
        return self._on_machine and refusals > 0 and self._machine[0] != refusals

    @property
    def _on_machine(self) -> bool:
        return (self._link.document.link.address or "").startswith("/")

    def machine_told(self, facts: Mapping[str, str]) -> None:
        """What the machine shows of the port (`machine_evidence`)."""
        self._machine = (self._link.evidence.refusals, dict(facts))

    def look(self) -> "Diagnosis":
        """The diagnosis, with what the session shows by itself taken in."""
        from humble_courier.app.diagnose.diagnosis import Diagnosis, at_hand_of

        link = self._link
        if self._diagnosis is None or self._model != link.document.model:
            self._model, self._elsewhere = link.document.model, {}
            kit = resolve_kit(link.bag.kit, link.catalog)
            met = {code: 1 + MET_TIMES * many for code, many in self.causes_met().items()}
            self._diagnosis = Diagnosis(link.document.link, link.catalog, at_hand_of(kit), bool(link.proofs()), met)
        shows = self._machine[1] if link.evidence.refusal else {}
        self._diagnosis.told(self._elsewhere | observed(link) | shows)
        self._diagnosis.unable = self._unable(self._diagnosis)
        return self._diagnosis

    def causes_met(self) -> dict[str, int]:
        """How often each cause was the true one, over all links."""
        facts = (fact for link_id, _ in self._store.links() for fact in self._store.facts(link_id))
        return Counter(fact.subject.removeprefix(CAUSE) for fact in facts if fact.subject.startswith(CAUSE))

    def _unable(self, diagnosis: "Diagnosis") -> frozenset[str]:
        """Checks of the program that it can neither do here at a press nor has a place for."""
        by_program = {id_ for id_, check in diagnosis.model.checks.items() if check.by == "program"}
        return frozenset(id_ for id_ in by_program if not self.can_do(id_) and id_ not in WHERE)

    @property
    def works(self) -> bool:
        """Whether the device answers: the end of every diagnosis."""
        return answers_now(self._link.evidence)

    @property
    def standing(self) -> object:
        """What its advice depends on beside the session: another value where the advice may be another."""
        made = self._diagnosis
        return None if made is None else (made.simulated, made.at_hand, made.answers)

    def can_do(self, check: str) -> bool:
        """Whether the program can do a check at the port by itself."""
        from humble_courier.app.diagnose.own_check import asking_of
        from humble_courier.app.port.machine_evidence import CHECKS

        if check in CHECKS:
            return self._on_machine
        if check in BY_LISTENING:
            return not self._link.live.listening and bool(self._link.document.link.address)
        asking = asking_of(self._link.document.link, *said_last(self._link))
        return asking is not None and check in asking.checks() and check != "power-cycle"

    def after(self) -> tuple[Stage, Page]:
        """Where the work goes on once it works: to the proof."""
        return Stage.TALK, TalkPage.LISTEN

    def own_check(self, check: str) -> "OwnCheckRun | None":
        """A check that the program can do at the port by itself; None where it cannot."""
        from humble_courier.app.diagnose.own_check import OwnCheckRun, asking_of

        link = self._link
        words, end = said_last(link)
        asking = asking_of(link.document.link, words, end)
        if asking is None or check not in asking.checks():
            return None
        return OwnCheckRun(
            asking, check, link.document.link, link.new_log(), link.authority, link.live.lends("a check of the diagnosis")
        )

    def permit(self, run: "OwnCheckRun") -> None:
        """The first press says what is sent; a second, soon after, means it. Raises BadInput for the first."""
        entry = self._link.catalog.checks[run.check]
        if run.says and self._link.document.trace.verdict is Verdict.MAY_DAMAGE:
            raise BadInput("the wiring as drawn may damage something: put that right first, then anything is sent")
        self._link.permit_check(entry.ask, f"{entry.sends} ({run.says})" if run.says else "")

    def checked(self, check: str, outcome: str, by_itself: bool = False) -> None:
        """What a check brought; `by_itself`: the program did it on a press."""
        diagnosis = self.look()
        diagnosis.seen(check, outcome, by_itself)
        entry = diagnosis.model.checks[check]
        text = f"{entry.ask} {entry.outcomes[outcome]}"
        self._link.ledger.measured(f"check {check}", text, holds=outcome in entry.ends, by="a check")

    def go_on_with(self, found: "Found") -> None:
        """What a check was answered with holds from now on: settings of both ends, the end of lines; and it listens."""
        link = self._link
        at = link.document.link.computer_settings
        if found.settings != at or found.end:
            link.take_found(found)
        link.listen()

    def over(self, cause: str) -> None:
        """It works: this was the cause. Raises BadInput for one that is not known."""
        entry = self._link.catalog.causes.get(cause)
        if entry is None:
            raise BadInput(f"there is no cause “{cause}”")
        self._link.ledger.observed(f"{CAUSE}{cause}", f"It was this: {entry.says}", "named by you")
        self._diagnosis = None


def said_last(link: "OpenLink") -> tuple[str, Terminator]:
    """The words of a person that brought nothing, else those that were answered; with their end."""
    silence, reply = link.evidence.silence, link.evidence.reply
    if silence is not None:
        return silence.words, silence.end
    end = link.document.link.end or link.first_end
    return (reply.words if reply is not None else link.evidence.asking), end


def observed(link: "OpenLink") -> dict[str, str]:
    """What the program has seen by itself, as checks with their outcomes."""
    evidence, found = link.evidence, {"trace": _traced(link)}
    found |= _of_the_port(evidence)
    if evidence.opened:
        heard = {Traffic.NOTHING: "nothing", Traffic.WRONG_SETTINGS: "garbled"}
        came = evidence.heard if link.live.count[0] else Traffic.NOTHING  # an earlier proof says nothing of today
        asked = (
            answers_now(evidence) or evidence.silence is not None or bool(evidence.unanswered) or evidence.reply is not None
        )
        if not asked or came is not Traffic.NOTHING or not link.live.count[0]:
            found["listen"] = heard.get(came, "clean")
        found |= _of_the_answers(evidence)
    lines = link.live.lines()
    states = [one for one in (lines.cts, lines.dsr, lines.dcd) if one is not None]
    if link.live.listening and states:
        found["lines"] = "driven" if any(states) else "none"
    if any(id_.startswith(LAMP) for id_ in link.ledger.ticked()):
        found["power-lamp"] = "lit"
    changed = _changed(link)
    return found | ({"compare": changed} if changed else {})


def answers_now(evidence: Evidence) -> bool:
    """Whether the device has answered, or talked, since the port was opened; an earlier proof says nothing of today."""
    talks = evidence.tally is not None and evidence.tally.sound > 0
    return evidence.proven and evidence.opened and (evidence.answer_ms is not None or talks or not evidence.proof_kept)


def _traced(link: "OpenLink") -> str:
    verdict = link.document.trace.verdict
    return verdict.value if verdict in (Verdict.WILL_NOT_WORK, Verdict.MAY_DAMAGE) else "works"


def _of_the_port(evidence: Evidence) -> dict[str, str]:
    if evidence.opened:
        return {"open": "opens"}  # nobody has looked at the kernel's log for that
    outcome = REFUSED.get(evidence.refused) if evidence.refused is not None else None
    if outcome is None:
        return {}
    return {"open": outcome, "list-ports": "absent" if outcome == "gone" else "seen"}


def _of_the_answers(evidence: Evidence) -> dict[str, str]:
    """What came of what was asked."""
    found = {}
    if answers_now(evidence):
        found["ask"] = "answer"
    elif evidence.gateway or evidence.adapter or evidence.reply is not None:
        found["ask"] = "part"
    elif evidence.silence is not None or evidence.unanswered:
        found["ask"] = "garbled" if evidence.heard is Traffic.WRONG_SETTINGS else "nothing"
    if evidence.silence is not None and set(USUAL_ENDS) <= evidence.silence.tried:
        found["other-endings"] = "nothing"
    if evidence.likelier:
        found["judge-bytes"] = "other"
    if evidence.searched:
        found["device-search"] = "silent"
    return found


def _changed(link: "OpenLink") -> str:
    """What is other than when it worked last; empty where it never did."""
    proofs = link.proofs()
    if not proofs:
        return ""
    here, last = make_proof(link.document.link, Evidence(), [], [], at=0.0), proofs[-1]
    return next((place for key, place in CHANGES if getattr(here, key) != getattr(last, key)), "same")
