"""A link that does not work: what is known of it by itself and from people, and what to do next.

Facts come from two sides. What the program saw is told anew at each look (`told`) and replaces what it told before; what
a person said stays until it is taken back. `simulate` tries the checks on the simulated bench of the link, which takes a
second or two: until it is done the tables of the data answer, so that there is advice at once. It may be called from
another thread.
"""

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass

from humble_courier.app.diagnose.advice import Advice, advice_of
from humble_courier.app.port.opening import open_lines
from humble_courier.catalog.kits import KitPart
from humble_courier.catalog.links import Link
from humble_courier.catalog.load import Catalog
from humble_courier.diagnose.bench_link import BenchLink
from humble_courier.diagnose.case import Case
from humble_courier.diagnose.model import NEEDS, Model, Rows, model_of
from humble_courier.diagnose.outlook import outlook, outlook_while
from humble_courier.diagnose.rows import rows_of
from humble_courier.diagnose.situation import tags_of
from humble_courier.errors import BadInput

ALWAYS = frozenset({"meter"})  # what a technician carries (common practice)


@dataclass(frozen=True)
class Done:
    """Something that was done, for the list of it: what was asked, what came, and whether the program saw it by itself."""

    code: str
    ask: str
    says: str
    by_itself: bool


class Diagnosis:
    """Of one link. `at_hand`: what can be used; `met`: how often each cause was the true one before, as a factor."""

    def __init__(
        self, link: Link | None, catalog: Catalog, at_hand: Collection[str] = ALWAYS, proven_before: bool = False,
        met: Mapping[str, float] | None = None,
    ) -> None:  # fmt: skip
        self._link, self._catalog = link, catalog
        self.at_hand = frozenset(at_hand)
        self._tags = tags_of(link, proven_before)
        self._met = dict(met or {})
        self._rows: Rows = {}
        self.unable: frozenset[str] = frozenset()  # checks that cannot be done here
        self._ran: set[str] = set()  # that the program did on a press
        self._own: dict[str, str] = {}
        self._said: dict[str, str] = {}
        self._done: list[tuple[str, str]] = []  # in the order in which they came: check or mend, outcome
        self._mended: list[str] = []
        self._forgotten: dict[str, str] = {}  # facts from before a mend that was believed in
        self._advised: tuple[object, Advice] | None = None
        self.model = self._model()

    def _model(self) -> Model:
        catalog = self._catalog
        return model_of(catalog.causes, catalog.checks, self._tags, self.at_hand, self._rows, self._met)

    @property
    def may_simulate(self) -> bool:
        """Whether the bench has something to tell of this link, and has not been asked."""
        return not self._rows and self._link is not None and BenchLink(self._link, self._catalog).simulated

    def simulate(self) -> Rows:
        """The rows from the bench; for `use`. Takes a second or two."""
        assert self._link is not None, "only a link stands on a bench"
        return rows_of(BenchLink(self._link, self._catalog), self._catalog.causes, open_lines(self._link.sheet))

    def use(self, rows: Rows) -> None:
        """Believe the bench from now on."""
        self._rows = rows
        self.model = self._model()

    @property
    def simulated(self) -> bool:
        """Whether the outcomes are simulated for this link."""
        return bool(self._rows)

    def told(self, facts: Mapping[str, str]) -> bool:
        """What the program sees by itself now; True where that is new. Checks that this link has not are left out."""
        own = {
            check: outcome for check, outcome in facts.items()
            if check in self.model.checks and self._forgotten.get(check) != outcome
        }  # fmt: skip
        if own == self._own:
            return False
        self._own = own
        return True

    def seen(self, check: str, outcome: str, by_itself: bool = False) -> None:
        """What a person saw, or the program where it did the check on a press.

        Raises BadInput for a check or an outcome that is not known, or not of this link.
        """
        entry = self._catalog.checks.get(check)
        if entry is None:
            raise BadInput(f"there is no check “{check}”: `humble-courier checks` lists them")
        if check not in self.model.checks:
            raise BadInput(f"the check “{check}” does not apply to this link: it wants {', '.join(entry.when)}")
        if outcome not in entry.outcomes:
            raise BadInput(f"the check “{check}” has no outcome “{outcome}”: it has {', '.join(entry.outcomes)}")
        self._said[check] = outcome
        self._ran = self._ran | {check} if by_itself else self._ran - {check}
        self._done = [one for one in self._done if one[0] != check] + [(check, outcome)]

    def take_back(self, code: str) -> None:
        """It was not so after all: an answer of a person, or a mend that was tried."""
        self._said.pop(code, None)
        self._mended = [one for one in self._mended if one != code]
        self._done = [one for one in self._done if one[0] != code]

    def in_vain(self, cause: str) -> None:
        """The mend of a cause was tried and brought no answer. Raises BadInput for one that is not of this link."""
        if cause not in self.model.causes:
            raise BadInput(f"“{cause}” is no cause of this link: `humble-courier causes` lists them")
        before = self.case
        if not before.in_vain(cause).facts and before.facts:  # it was believed in: there is a second fault behind it
            self._forgotten = {fact.check: fact.outcome for fact in before.facts}
            self._said, self._own = {}, {}
        self._mended.append(cause)
        self._done.append((cause, ""))

    @property
    def case(self) -> Case:
        """All facts; where a person and the program looked at the same, the newer look of the program counts."""
        case = Case(self.model, mended=tuple(self._mended))
        for check, outcome in {**self._said, **self._own}.items():
            if check in self.model.checks:
                case = case.seen(check, outcome)
        return case

    def advice(self, may_send: bool = True) -> Advice:
        """What to say now. `may_send`: whether checks that say something can be done."""
        case, barred = self.case, self.barred
        key = (id(case.model), case.facts, case.mended, self.at_hand, may_send, barred)
        if self._advised is None or self._advised[0] != key:  # a page asks several times for what has not changed
            self._advised = (key, advice_of(case, self.at_hand, may_send, self._catalog.cautions, barred))
        return self._advised[1]

    def outlook(self, case: Case | None = None) -> float:
        """Expected minutes to a working link from a case (this one), its way gone a few dozen times. Up to a second."""
        return outlook(case or self.case, self.at_hand, unable=self.barred)

    def outlook_while(self, wanted: Callable[[], bool], case: Case) -> float | None:
        """As `outlook`; None where it is not `wanted` any more."""
        return outlook_while(wanted, case, self.at_hand, unable=self.barred)

    @property
    def barred(self) -> frozenset[str]:
        """Checks that are not proposed: what cannot be done here, and all that sends while the wiring may damage."""
        return self.unable | (self._sending if self.may_damage else frozenset())

    @property
    def may_damage(self) -> bool:
        """Whether the wiring as drawn may damage something."""
        return {**self._said, **self._own}.get("trace") == "may-damage"

    @property
    def _sending(self) -> frozenset[str]:
        return frozenset(id_ for id_, check in self.model.checks.items() if check.sends)

    @property
    def answers(self) -> tuple[tuple[str, str], ...]:
        """What people said and tried: check with outcome, cause with nothing; in order."""
        return tuple(self._done)

    def done(self) -> list[Done]:
        """What was seen and tried so far: what the program saw, then what people did, in order."""
        checks = self.model.checks
        own = [Done(c, checks[c].ask, checks[c].outcomes[o], True) for c, o in self._own.items()]
        return own + [self._one(code, outcome) for code, outcome in self._done if code not in self._own]

    def _one(self, code: str, outcome: str) -> Done:
        if outcome:
            check = self._catalog.checks[code]
            return Done(code, check.ask, check.outcomes[outcome], code in self._ran)
        return Done(code, self._catalog.causes[code].mend.act, "no answer after it", False)

    def without(self, need: str) -> None:
        """This is not at hand after all."""
        self.at_hand -= {need}
        self.model = self._model()

    def with_(self, need: str) -> None:
        """This is at hand. Raises BadInput for what no check knows."""
        if need not in NEEDS:
            raise BadInput(f"“{need}” is nothing that a check needs: known are {', '.join(NEEDS)}")
        self.at_hand |= {need}
        self.model = self._model()


def at_hand_of(kit: Collection[KitPart]) -> frozenset[str]:
    """What of the kit serves as a second one, and what is always carried."""
    counts = {"adapters": 0, "cables": 0, "leads": 0, "crossing": 0, "terminator": 0, "loop": 0}
    for piece in kit:
        part, many = piece.part, piece.item.count
        usb = any(end.connector.family.startswith("USB") for end in part.ends)
        active = any(end.signals for end in part.ends)
        counts["adapters"] += many * (usb and active)
        counts["leads"] += many * (usb and not active)
        counts["cables"] += many * (not usb and not active and (part.length_m or 0) > 0)
        counts["crossing"] += many * ("cross" in part.id or "rolled" in part.id)
        counts["terminator"] += many * ("termina" in part.id)
        counts["loop"] += many * ("loop" in part.id)
    found = {
        "second-adapter": counts["adapters"] > 1, "second-cable": counts["cables"] > 1, "second-lead": counts["leads"] > 0,
        "crossing": counts["crossing"] > 0, "terminator": counts["terminator"] > 0, "loop-plug": counts["loop"] > 0,
    }  # fmt: skip
    return ALWAYS | {need for need, there in found.items() if there}
