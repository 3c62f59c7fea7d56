"""The whole road by itself: from the port to the proof along what is recommended, under one permit of a person.

Theory of operation. What to do next is what the link recommends (`OpenLink.next_step`); this only decides whether that
may be done without asking again, and when. It listens for a while first, since who talks by himself needs nobody to
speak; it says only words of the sheet and of the search; it ticks nothing, changes no wiring, keeps no proof: those are
the person's. It ends at a proof, at an answer that somebody has to call right, or at an act that only a person can do,
and says which. It is fed times and steps, and does no work of its own.
"""

from dataclasses import dataclass
from enum import StrEnum

from humble_courier.app.link.evidence import Evidence
from humble_courier.app.link.step import Action, NextStep
from humble_courier.app.talk.traffic import Traffic

LISTENS_S = 3.0  # before it speaks: most that talk by themselves do so once a second or two (common practice)
HEARS_OUT_S = 15.0  # while whole messages come in, for the proof that is heard
ALONE = {
    Action.LISTEN, Action.SETTINGS, Action.SAY, Action.READ, Action.UNITS, Action.AGAIN, Action.ADOPT, Action.ASK_AGAIN,
}  # fmt: skip
SEARCHES = {Action.FIND, Action.TYPE, Action.SHOW_SETTINGS}
PERMIT = (
    "It listens, then it may send: the words of the sheet, and the first words of a search ({search}) at several rates; "
    "these change nothing in a device"
)
IN_SEARCH = "*IDN?, requests to read one register"


class RoadTurn(StrEnum):
    """What is to be done now."""

    WAIT = "wait"
    ACT = "act"  # do what is recommended
    ARM = "arm"
    SEARCH = "search"
    OVER = "over"


@dataclass
class WholeRoad:
    """One road. `begun`, and all times: seconds of any clock that does not jump."""

    begun: float
    searched: bool = False
    heard_at: float | None = None
    told: str = ""

    def turn(
        self, step: NextStep, evidence: Evidence, listening: bool, armed: bool, now: float, works: bool = False
    ) -> RoadTurn:  # fmt: skip
        """What to do; `told` says it in a sentence. `works`: a procedure of our own is at a port, and is waited for."""
        if evidence.shown is not None:
            return self._over(f"Proven: {evidence.shown.reason}. Keep the proof, and the device as your own.")
        if step.action is Action.MARK:
            return self._over("It answered. Only you can tell whether that is right.")
        if works and not evidence.searching:
            return self._wait("its own check goes on")
        if evidence.searching or step.action is Action.WAIT:
            return self._wait("searching" if evidence.searching else "waiting for its answer")
        if listening and not armed and self._listens(evidence, now):
            return self._wait("listening: who talks by himself is heard first")
        if step.action in ALONE:
            self.told = f"does: {step.button}"
            return RoadTurn.ACT
        if listening and not armed and step.action in (Action.ARM, Action.PREPARE):
            self.told = "may speak now"
            return RoadTurn.ARM
        if step.action in SEARCHES and not self.searched:
            self.searched, self.told = True, "searches for settings and words"
            return RoadTurn.SEARCH
        return self._over(f"Now it is your turn: {step.text}")

    def _listens(self, evidence: Evidence, now: float) -> bool:
        """Whether it goes on listening; from the moment at which the port was open."""
        if self.heard_at is None:
            self.heard_at = now
        talks = evidence.heard in (Traffic.TEXT, Traffic.BINARY)
        return now - self.heard_at < (HEARS_OUT_S if talks else LISTENS_S)

    def _wait(self, what: str) -> RoadTurn:
        self.told = what
        return RoadTurn.WAIT

    def _over(self, why: str) -> RoadTurn:
        self.told = why
        return RoadTurn.OVER
