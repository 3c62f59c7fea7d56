"""The ledger of facts about the link that is open: what was measured and observed, and what was done."""

from collections.abc import Mapping
from typing import TYPE_CHECKING

from humble_courier.app.contents import Content
from humble_courier.app.link import facts as texts
from humble_courier.app.link import notes
from humble_courier.app.link.document import LinkDocument
from humble_courier.app.link.evidence import Evidence
from humble_courier.app.link.kept_files import FILE, OUT, KeptFile, kept_files, words
from humble_courier.app.prepare.sheet_acts import SheetAct
from humble_courier.app.talk.traffic import Traffic
from humble_courier.documents.device import DeviceEntry
from humble_courier.domain.clock import Clock, SystemClock, same_day
from humble_courier.domain.facts import EarlierFact, Fact, Provenance

if TYPE_CHECKING:
    from humble_courier.records.store import Store

OF_SOUNDS = ("greeting", "heard")  # subjects that hold only while something is heard
OF_ANSWERS = ("identity", "both ways")  # subjects that hold only while the device has answered
ACT, TAKEN_BACK = "act ", "Not done: "


class FactLedger:
    """Each fact is saved before the method returns; the newest of a subject holds."""

    def __init__(self, store: "Store", link_id: str, clock: Clock = SystemClock()) -> None:
        self._store, self._id, self._clock = store, link_id, clock
        self._kept: list[Fact] = store.facts(link_id)

    def _keep(self, subject: str, text: str, provenance: Provenance, source: str, holds: bool) -> None:
        fact = Fact(subject, text, provenance, source, self._clock.wall(), holds)
        self._kept.append(fact)
        self._store.add_facts(self._id, [fact])

    def measured(self, subject: str, text: str, holds: bool = True, by: str = "meter at the bench") -> None:
        """Note what was measured about this link, and by what."""
        self._keep(subject, text, Provenance.MEASURED, by, holds)

    def observed(self, subject: str, text: str, source: str, holds: bool = True) -> None:
        """Note what the system said, or a lamp, or a person."""
        self._keep(subject, text, Provenance.OBSERVED, source, holds)

    def tick(self, act: SheetAct, done: bool) -> None:
        """Note that an act of the device sheet is done (or is not after all), with the evidence that the sheet names."""
        text, source = (act.act, act.proof) if done else (f"{TAKEN_BACK}{act.act}", "taken back by you")
        self.observed(f"{ACT}{act.id}", text, source)

    def note(self, name: str, value: str, by: str = notes.BY_HAND) -> None:
        """Keep a value that was read at the device. Raises BadInput for none, and for one that is too long."""
        self.observed(notes.subject(name), notes.text(name, value), by)

    def notes(self, sheet: DeviceEntry | None, read: Mapping[str, str]) -> list[notes.Note]:
        """What is to be noted and what was. `read`: what the device has told of itself, by name."""
        return notes.asked(sheet, self._kept, read)

    def keep_file(self, name: str, content: Content, note: str) -> None:
        """Note that a file is kept with this link. Raises BadInput for a name without a letter."""
        self.observed(f"{FILE}{content.id}", words(name, content, note), "kept by you")

    def take_out(self, file: KeptFile) -> None:
        """Note that a file does not belong to it any more."""
        self.observed(f"{FILE}{file.content}", f"{OUT}{file.name}", "taken out by you")

    @property
    def history(self) -> list[Fact]:
        """All facts, oldest first; of a subject the newest holds."""
        return list(self._kept)

    def files(self) -> list[KeptFile]:
        """Files that are kept with this link."""
        return kept_files(self._kept)

    def ticked(self) -> set[str]:
        """Ids of the sheet's acts that are done today: whatever was done on an earlier day has to be done again."""
        latest = {f.subject: f for f in self._kept if f.subject.startswith(ACT)}
        today = self._clock.wall()
        return {
            subject.removeprefix(ACT)
            for subject, fact in latest.items()
            if not fact.text.startswith(TAKEN_BACK) and same_day(fact.at, today)
        }

    def facts(self, document: LinkDocument, evidence: Evidence) -> list[Fact]:
        """What we know, the newest of each subject, newest first; the verdict on the wiring on top of the documents."""
        gone = set(OF_SOUNDS) if evidence.heard is Traffic.NOTHING else set()
        gone |= set() if evidence.proven else set(OF_ANSWERS)
        at, today = document.taken_at, self._clock.wall()
        told = [*texts.documented(document.link, at), texts.of_trace(document.trace, at, evidence.proven)]
        seen = [fact if same_day(fact.at, today) else EarlierFact(**vars(fact)) for fact in self._kept]
        kept = (fact for fact in seen if isinstance(fact, EarlierFact) or fact.subject not in gone)
        return texts.newest([*told, *kept])
