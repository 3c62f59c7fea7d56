"""The link that is open: its document, its live session and its ledger of facts, and what follows from the three.

The window shows this. `poll` takes in what the session brought; `due_s` says when to ask again though nothing is heard.
"""

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

import msgspec

from humble_courier.app.kit.bag import Bag
from humble_courier.app.link.changes import as_found
from humble_courier.app.link.diagnosing import LinkDiagnosis
from humble_courier.app.link.document import LinkDocument
from humble_courier.app.link.evidence import Evidence
from humble_courier.app.link.ledger import FactLedger
from humble_courier.app.link.listening import read, summary_fact
from humble_courier.app.link.live_session import LiveSession
from humble_courier.app.link.noting import Noting
from humble_courier.app.link.places import places
from humble_courier.app.link.proof import make_proof
from humble_courier.app.link.road import next_step
from humble_courier.app.link.second_visit import Earlier, earlier_of, only_again, standing_of
from humble_courier.app.link.seen import LinkSeen
from humble_courier.app.link.speaking import Speaking
from humble_courier.app.link.stages import Place
from humble_courier.app.link.step import Action, NextStep
from humble_courier.app.link.touched import Touched, touched
from humble_courier.app.link.word_ways import KLINE
from humble_courier.app.port.profiles import PortProfiles
from humble_courier.app.settings.kept_plans import KeptPlans
from humble_courier.app.talk.line_logs import LineLog, new_log
from humble_courier.app.talk.proving import answered_here
from humble_courier.app.talk.registers import checked_unit
from humble_courier.catalog.load import Catalog
from humble_courier.documents.link import LinkModel, LinkPort
from humble_courier.documents.link_changes import with_settings
from humble_courier.documents.records import Proof
from humble_courier.domain.facts import Fact
from humble_courier.domain.proven import Shown
from humble_courier.errors import BadInput, CourierError, PortGone
from humble_courier.port.authority import Authority
from humble_courier.port.session import Session
from humble_courier.procedures.device_search.found import Found

if TYPE_CHECKING:  # the database layer takes long to load: whoever opens it pays, not whoever shows a window
    from humble_courier.records.store import Store

RESUMES = "Put the adapter back: listening goes on by itself, and what was heard is kept"
LOOK_EVERY_S = 1.0  # for an adapter that was pulled
UNDONE = 50  # versions for which is remembered what was shown
SHOWS = ("identity", "answer", "registers", "heard by itself")  # news that show something once more


class OpenLink(Speaking, Noting):
    """One link being worked on. `changed` is called, from any thread, when the session heard or said something."""

    def __init__(
        self, catalog: Catalog, store: "Store", link_id: str, bag: Bag | None = None,
        changed: Callable[[], None] = lambda: None, authority: Authority | None = None,
    ) -> None:  # fmt: skip
        self.authority = authority or Authority()
        self.clock = clock = self.authority.clock
        super().__init__()
        self.catalog, self._store = catalog, store
        self.document = LinkDocument(catalog, store, link_id, clock)
        self.ledger = FactLedger(store, link_id, clock)
        self.live = LiveSession(changed, self.authority)
        self.profiles = PortProfiles(store, link_id)
        self.plans = KeptPlans(store, link_id)
        self.bag = bag or Bag(store)
        self.evidence = Evidence()
        self.earlier: Earlier | None = None
        self.diagnosis = LinkDiagnosis(self, store)
        self._lost = False
        self._looked_at = 0.0
        self._alarms = 0
        self._waited: tuple[object, ...] = ()
        self._steps: dict[bool, tuple[object, NextStep]] = {}
        self._shown_for: list[tuple[LinkModel, Evidence]] = []
        self._look_back()
        if not store.read_only:
            store.remember("current-link", link_id)

    @property
    def id(self) -> str:
        """The link's id in the records."""
        return self.document.id

    def proofs(self) -> list[Proof]:
        """All proofs of this link, oldest first."""
        return self._store.proofs(self.id)

    def answered_here(self) -> list[str]:
        """Devices that have answered at this link's port before, the newest last."""
        return answered_here(self._store, self.document.link.address or "")

    def _look_back(self) -> None:
        """What worked on an earlier day with this very chain, port and settings; of today it says nothing."""
        self.earlier = earlier_of(self.proofs(), self.document.link, self.clock.wall())

    # Changes of the link

    def change(self, model: LinkModel) -> None:
        """Take another version of the link. Raises BadInput; then nothing changed."""
        self._changing(lambda: self.document.change(model))

    def choose_unit(self, unit: int) -> None:
        """Which unit of the bus it is about. Raises BadInput for one that the sheet does not allow."""
        self.change(msgspec.structs.replace(self.document.model, unit=checked_unit(self.document.link.sheet, unit)))

    def search_begun(self) -> None:
        """A search begins; where the port is open, it is lent to it."""
        self.evidence.searching = True

    def search_over(self, in_vain: bool = False) -> None:
        """The search has ended, or was stopped; `in_vain`: it went through all it knows and found nothing."""
        self.evidence.searching, self.evidence.searched = False, in_vain

    def found(self, found: Found) -> None:
        """A search has found the device: a fact, and the next step."""
        self.ledger.measured("found", f"Found at {found.settings.spoken}: {found.identity}", by="answer on the line")
        self.evidence.found = found

    @property
    def speaks_kline(self) -> bool:
        """Whether its device has control units on a K-line, which are asked one after the other."""
        sheet = self.document.link.sheet
        return sheet is not None and sheet.port.protocol == KLINE

    def units_read(self, shown: Shown | None, headline: str) -> None:
        """A round through the control units is over."""
        self.ledger.measured("control units", headline, holds=shown is not None, by="asked one after the other")
        if shown is not None and shown.outranks(self.evidence.shown):
            self.evidence.shown, self.evidence.proof_kept = shown, False

    def adopt(self) -> None:
        """Open with what the last search found. Raises BadInput where it found nothing."""
        if self.evidence.found is None:
            raise BadInput("no search has found anything here yet")
        self.take_found(self.evidence.found)
        self.listen()

    def take_found(self, found: Found) -> None:
        """Go on with what a search has found: port, settings of both ends, the end of lines, the unit."""
        self.change(as_found(self.document.link, found))
        self.evidence.found, self.evidence.reached, self.evidence.suggested = None, True, found.words

    def undo(self) -> bool:
        """Take the last change back, with what was shown then; False where there is none. No permit comes back."""
        return self._changing(self.document.undo, back=True)

    def redo(self) -> bool:
        """Make the change again that was taken back; False where there is none."""
        return self._changing(self.document.redo, back=True)

    def _changing(self, change: Callable[[], bool], back: bool = False, same_device: bool = False) -> bool:
        """Change the document; of the port, the permit and what was shown only that is touched which the change touches.

        `back`: to a version that was here before. `same_device`: another sheet of the device that is there.
        """
        before, model = self.document.link, self.document.model
        if not change() or self.document.model == model:
            return False
        self._shown_for = [*self._shown_for[-UNDONE:], (model, replace(self.evidence))]
        now = touched(before, self.document.link)
        if now.address:
            self._at_another_port()
        else:
            self._follow(now, same_device)
        self._look_back()
        was = next((one for kept, one in reversed(self._shown_for[:-1]) if kept == self.document.model), None)
        if back and was is not None and not now.address:
            self.evidence = replace(self.evidence, shown=was.shown, chain=was.chain, proof_kept=was.proof_kept)
        return True

    def _at_another_port(self) -> None:
        listening = self.live.listening
        self.stop()
        self.live.forget()
        self.evidence, self._acts_passed = Evidence(), False
        if listening:
            self.listen()

    def _follow(self, now: Touched, same_device: bool) -> None:
        """The same port: it stays open, and the talk is kept."""
        link, evidence = self.document.link, self.evidence
        if now.sheet and not same_device:
            self._acts_passed = False
            self.live.another_sheet(link.sheet)
        if now.bench:
            self.live.bench_again(link)
        elif now.settings and link.computer_settings is not None:
            self.live.set(link.computer_settings)
        if now.settings or now.sheet or now.unit:
            self.evidence = evidence.of_the_port(with_proof=same_device)
        if now.sheet and not now.settings:
            self.live.judge_again()

    # The session

    def listen(self, session: Session | None = None) -> None:
        """Open the port, listening only; an interrupted session goes on. A refusal becomes evidence, not an exception."""
        if self.live.listening:
            return
        link = self.document.link
        try:
            self.live.listen(link, self.new_log(), session)
        except CourierError as error:
            self._refused(error, lost=False)
            return
        self.evidence = replace(
            self.evidence, refusal="", remedy="", refused=None, lost=False, opened=True, port_open=True, refusals=0
        )
        self._lost, self._alarms = False, 0
        at = link.computer_settings
        self.ledger.observed("port", f"The port opened as ours, at {at.spoken if at else ''}", "opened by this program")

    def new_log(self) -> LineLog:
        """A log for what begins now at this link: a session, or a procedure."""
        return new_log(self._store.path.parent, self.id, self.clock)

    def stop(self) -> None:
        """Close the port and disarm."""
        self._lost = False
        self.evidence.port_open = False
        if self.live.lent:
            self.authority.stop_all(f"the port is closed, and {self.live.lent} works there")
        self.live.close()

    def poll(self) -> bool:
        """Take in what the session brought; True where something new is known. Call from one thread only.

        Raises what kept words from being sent, once: it is an answer to the person, and the session goes on.
        """
        if not self.live.listening:
            return self._resume()
        error = self.live.error
        if error is not None:
            self.stop()
            self._refused(error, lost=True)
            self._lost = isinstance(error, PortGone)
            return True
        link, before = self.document.link, self.evidence.shown
        with self.live.held() as session:
            news = read(self.evidence, session, link, self.clock.wall(), self.catalog)
            alarms = list(session.alarms)
        if self.evidence.shown is not before or any(subject.startswith(SHOWS) for subject, _ in news):
            self.evidence.chain = tuple(part.name for part in link.parts)
        self.go_on_asking()
        for subject, text in news:
            self.ledger.measured(subject, text, by="heard on the line")
            if subject == "identity" and link.computer_settings:
                self.ledger.measured("both ways", summary_fact(link.computer_settings, session), by="heard on the line")
        if self.evidence.end is not None and self.evidence.end is not link.end:
            self.document.found_out(end=self.evidence.end.value)
            self.ledger.measured("line end", f"Its lines end with {self.evidence.end.spoken}", by="it answered only then")
        refused = self.live.take_refusal()
        if refused is not None:
            self.evidence.asking, self.evidence.since = "", None
            raise refused
        waited, self._waited = self._waited, (self.ready_in_s, self.evidence.asking, self.evidence.unanswered)
        return self._alarmed(alarms) or bool(news) or waited != self._waited

    @property
    def due_s(self) -> float | None:
        """Seconds until `poll` has something to do though nothing is heard; None where it has not."""
        return LOOK_EVERY_S if self._lost else self.live.due_s

    def _alarmed(self, alarms: list[str]) -> bool:
        """What our presence does at a simulated device is seen there; a real one must be looked at."""
        new = alarms[self._alarms :]
        self._alarms += len(new)
        for text in new:
            self.ledger.observed("alarm", text[0].upper() + text[1:], "seen at the simulated device", holds=False)
        return bool(new)

    def _resume(self) -> bool:
        """A port that was pulled is opened again once its adapter is back, under whatever number; the session goes on."""
        now = self.clock.now()
        if not self._lost or now - self._looked_at < LOOK_EVERY_S:
            return False
        self._looked_at = now
        if not self.document.simulated:
            address = self.document.link.address or ""
            found = self.profiles.again(address)
            if found is None:
                return False
            if found != address:
                self.document.moved(found)
        self.listen(self.live.session)
        return True

    def _refused(self, error: CourierError, lost: bool) -> None:
        """The machine said no: evidence for the line, a fact for the record."""
        text = getattr(error, "text", str(error))
        remedy = RESUMES if isinstance(error, PortGone) else getattr(error, "remedy", "")
        again = self.evidence.refusals + 1
        self.evidence = replace(
            self.evidence, refusal=text, remedy=remedy, lost=lost, opened=False, port_open=False, refusals=again,
            refused=getattr(error, "code", None),
        )  # fmt: skip
        self.ledger.observed("port", text[0].upper() + text[1:], "the operating system", holds=False)

    # What follows

    def facts(self) -> list[Fact]:
        """What we know, newest first."""
        return self.ledger.facts(self.document, self.evidence)

    def places(self) -> list[Place]:
        """The places of the line."""
        document = self.document
        return places(document.link, document.trace, self.evidence, document.simulated, self.earlier)

    def next_step(self, alone: bool = False) -> NextStep:
        """The recommended next act. `alone`: of those that the program can do by itself, no person at hand."""
        document, live, kit = self.document, self.live, self.bag.kit
        wait, undone = self.ready_in_s, [] if self._acts_passed else self.undone()
        said = live.said()
        state = (
            document.model, kit, replace(self.evidence), live.listening, live.armed, wait, len(undone), said,
            self.diagnosis.standing, self.earlier,
        )  # fmt: skip
        kept = self._steps.get(alone)
        if kept is None or kept[0] != state:
            step = next_step(
                LinkSeen(
                    document.link, document.trace, self.evidence, self.catalog, kit, live.listening, live.armed, wait,
                    [act.act for act in undone], said, lambda: self.diagnosis.look().advice(), alone, self.earlier,
                )
            )  # fmt: skip
            self._steps[alone] = kept = (state, step)
        return kept[1]

    def take(self, step: NextStep) -> bool:
        """Do what was recommended; False where only a person can, at the place that the step names."""
        doing: dict[Action, Callable[[], object]] = {
            Action.LISTEN: self.listen,
            Action.WAIT: lambda: None,
            Action.ARM: self.arm,
            Action.KEEP_PROOF: self.keep_proof,
            Action.ASK_AGAIN: self.ask_again,
            Action.MARK: self.mark_right,
            Action.READ: self.read_registers,
            Action.ADOPT: self.adopt,
            Action.AGAIN: lambda: self.say_again(step.end or self.first_end),
            Action.SAY: lambda: self.say(step.words),
            Action.CHAIN: lambda: self.change(step.chain or self.document.model),
            Action.SETTINGS: lambda: self.change(with_settings(self.document.model, computer=step.settings)),
        }
        act = doing.get(step.action)
        if act is not None:
            act()
        return act is not None

    @property
    def told(self) -> str:
        """How the link stands, in a few words beside its name: today first, an earlier day with its date."""
        return standing_of(self.evidence, self.earlier)

    @property
    def only_again(self) -> bool:
        """Whether this is a second visit on which nothing but the questions of then was said, and no proof kept yet."""
        return only_again(self.earlier, self.evidence, self.live.session)

    @property
    def earlier_drawing(self) -> str:
        """The parts as they were drawn when the proof was shown, where they are drawn otherwise now; else empty."""
        drawn = tuple(part.name for part in self.document.link.parts)
        shown = self.evidence.shown is not None and self.evidence.chain and self.evidence.chain != drawn
        return ", ".join(self.evidence.chain) if shown else ""

    def is_now(self, device: str) -> None:
        """The device of this link is the one with this sheet. Raises BadInput where there is none."""
        self.catalog.device(device)
        model = msgspec.structs.replace(self.document.model, device=LinkPort(device=device))
        self._changing(lambda: self.document.change(model), same_device=True)

    def keep_proof(self) -> int:
        """Put the proof into the records; returns its number. Raises BadInput where nothing is proven yet."""
        if not self.evidence.proven:
            raise BadInput("nothing is proven yet: nothing was answered, read, or heard for long enough")
        proof = make_proof(self.document.link, self.evidence, self.live.utterances(), self.facts(), self.clock.wall())
        if self.earlier_drawing:
            proof = msgspec.structs.replace(proof, chain=list(self.evidence.chain))
        used = self.profiles.profile
        if used is not None:
            proof = msgspec.structs.replace(proof, serial=used.serial or "", socket=used.socket or "")
        number = self._store.add_proof(self.id, proof)
        self.evidence.proof_kept = True
        self.bag.credit(self.document.model.chain, served=True, serial=proof.serial)
        self.ledger.observed("proof", f"Proof {number} is in the record", "kept by this program")
        return number
