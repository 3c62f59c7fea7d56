"""The live link: its document, what follows from it, the open session, and what is kept. The window shows this."""

import time
from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

import msgspec

from humble_courier.app.kit.contents import credited, load_kit, save_kit
from humble_courier.app.link import facts as fact_texts
from humble_courier.app.link.evidence import Evidence, read, summary_fact
from humble_courier.app.link.live_port import LivePort
from humble_courier.app.link.next_step import NextStep, next_step
from humble_courier.app.link.places import Place, places
from humble_courier.app.link.proof import make_proof
from humble_courier.app.port.profiles import again
from humble_courier.app.prepare.sheet_acts import acts
from humble_courier.app.talk.traffic import Traffic
from humble_courier.app.wire.tracing import trace_link
from humble_courier.app.wire.wire_map import WireMap, wire_map
from humble_courier.catalog.links import resolve_link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.kit import KitModel
from humble_courier.documents.link import LinkModel
from humble_courier.domain.facts import Fact, Provenance
from humble_courier.domain.lines import Lines
from humble_courier.domain.text import Terminator
from humble_courier.domain.utterance import Utterance
from humble_courier.errors import BadInput, CourierError, PortGone
from humble_courier.port.log import LineLog
from humble_courier.port.session import Session

if TYPE_CHECKING:  # the database layer takes long to load: whoever opens it pays, not whoever shows a window
    from humble_courier.records.store import Store


LOOK_EVERY_S = 1.0  # for an adapter that was pulled


class Workbench:
    """One link being worked on. Every change is saved before the method returns.

    `changed` is called, from any thread, when the session heard or said something; the caller then calls `poll`.
    """

    def __init__(self, catalog: Catalog, store: "Store", link_id: str, changed: Callable[[], None] = lambda: None) -> None:
        model = store.link(link_id)
        if model is None:
            raise BadInput(f"there is no link {link_id} in the records")
        self.catalog, self.store, self.link_id = catalog, store, link_id
        self.name = dict(store.links()).get(link_id, "")
        self._undo: list[LinkModel] = []
        self._redo: list[LinkModel] = []
        self.live = LivePort(changed)
        self._lost = False
        self._looked_at = 0.0
        self._alarms = 0
        self._step: tuple[object, NextStep] | None = None
        self.kit = load_kit(store)
        self._measured: list[Fact] = store.facts(link_id)
        self._documented_at = time.time()
        self._take(model)
        self._remember_answer()
        store.remember("current-link", link_id)

    def _take(self, model: LinkModel) -> None:
        self.model = model
        self.link = resolve_link(model, self.catalog)
        self.trace = trace_link(self.link, self.catalog)
        self.evidence = Evidence()

    def _remember_answer(self) -> None:
        """An answer that was proven earlier with this very chain, port and settings still holds."""
        proofs = self.store.proofs(self.link_id)
        if proofs:
            here = make_proof(self.link, Evidence(), [], [])
            last = proofs[-1]
            same = ("port", "chain", "computer_settings", "device_settings")
            if all(getattr(last, key) == getattr(here, key) for key in same):
                self.evidence = replace(self.evidence, identity=last.identity, proof_kept=True, heard=Traffic.TEXT)

    # Changes of the link

    def change(self, model: LinkModel) -> None:
        """Take another version of the link, with the old one kept for `undo`. Raises BadInput; then nothing changed."""
        if model == self.model:
            return
        resolve_link(model, self.catalog)
        self._undo.append(self.model)
        self._redo.clear()
        self._become(model)

    def undo(self) -> bool:
        """Take the last change back; False where there is none."""
        if not self._undo:
            return False
        self._redo.append(self.model)
        self._become(self._undo.pop())
        return True

    def redo(self) -> bool:
        """Make the change again that was taken back; False where there is none."""
        if not self._redo:
            return False
        self._undo.append(self.model)
        self._become(self._redo.pop())
        return True

    @property
    def can_undo(self) -> bool:
        """Whether there is a change to take back."""
        return bool(self._undo)

    def _become(self, model: LinkModel) -> None:
        listening = self.listening
        self.stop()
        self.store.save_link(model, self.name, self.link_id)
        self._documented_at = time.time()
        self._take(model)
        self.live.forget()
        self._remember_answer()
        if listening:
            self.listen()

    # The session

    @property
    def session(self) -> Session | None:
        """The session of the open port, or of the last one."""
        return self.live.session

    @property
    def listening(self) -> bool:
        """Whether the port is open."""
        return self.live.listening

    @property
    def armed(self) -> bool:
        """Whether something may be sent."""
        return self.live.armed

    def listen(self, session: Session | None = None) -> None:
        """Open the port, listening only; an interrupted session goes on. A refusal becomes evidence, not an exception."""
        from humble_courier.app.port.opening import address_of, open_lines, start

        if self.listening:
            return
        settings, sheet = self.link.computer_settings, self.link.sheet
        try:
            if settings is None:
                raise BadInput("choose the settings of the computer's end first")
            name = f"{time.strftime('%Y-%m-%d-%H%M%S')}-{self.link_id}.jsonl"
            log = LineLog(self.store.path.parent / "logs" / name)
            line_end = b"\r" if sheet is not None and sheet.end == "cr" else b"\n"
            driver = start(address_of(self.link), settings, open_lines(self.link), log, session, line_end)
            log.begin(address_of(self.link).partition("?")[0], str(settings))
        except CourierError as error:
            self._refused(error, lost=False)
            return
        self.evidence = replace(self.evidence, refusal="", remedy="", lost=False, opened=True)
        self.live.open(driver, log)
        self._lost, self._alarms = False, 0
        self._keep("port", f"Port is open, ours, at {settings.spoken}", Provenance.OBSERVED, "opened by this program")

    def stop(self) -> None:
        """Close the port and disarm."""
        self._lost = False
        self.live.close()

    def arm(self) -> str:
        """Allow first words; returns the sentence that says what may be sent. Raises BadInput while the port is closed."""
        what = "first words and what you type" if self.link.sheet and self.link.sheet.first_words else "what you type"
        self.live.opened().driver.session.arm(what)
        return what

    def disarm(self) -> None:
        """Back to listening only."""
        if self.live.driver is not None:
            self.live.driver.session.disarm()

    def say(self, text: str, end: Terminator | None = None) -> None:
        """Send a line with the device's terminator (or another); raises BadInput while closed or listening only."""
        sheet = self.link.sheet
        words = next((w for w in sheet.first_words if w.say == text), None) if sheet else None
        end = end or (Terminator(sheet.end) if sheet else Terminator.CR)
        self.live.say(text, end, words.means if words else "")

    def set_lines(self, dtr: bool, rts: bool) -> None:
        """Set DTR and RTS by hand; raises BadInput where the sheet says that they stay low, and while closed."""
        lines = self.link.sheet.lines_at_open if self.link.sheet else None
        for name, wanted, on in (("DTR", lines and lines.dtr, dtr), ("RTS", lines and lines.rts, rts)):
            if on and wanted == "low":
                raise BadInput(f"the sheet of this device says that {name} stays low: it keys or resets")
        self.live.opened().do(lambda driver: driver.port.set_lines(dtr, rts))

    def poll(self) -> bool:
        """Take in what the session brought; True where something new is known. Call from one thread only."""
        driver = self.live.driver
        if driver is None:
            return self._resume()
        error = self.live.error
        if error is not None:
            self.stop()
            self._refused(error, lost=True)
            self._lost = isinstance(error, PortGone)
            return True
        self.live.poll()
        with driver.lock:
            news = read(self.evidence, driver.session, self.link, time.time(), self.catalog)
        for subject, text in news:
            self._keep(subject, text, Provenance.MEASURED, "heard on the line")
            if subject == "identity" and self.link.computer_settings:
                proof = summary_fact(self.link.computer_settings, driver.session)
                self._keep("both ways", proof, Provenance.MEASURED, "heard on the line")
        return self._alarmed(driver.session.alarms) or bool(news)

    def _alarmed(self, alarms: list[str]) -> bool:
        """What our presence does at a simulated device is seen there; a real one must be looked at."""
        new = alarms[self._alarms :]
        self._alarms += len(new)
        for text in new:
            self._keep("alarm", text[0].upper() + text[1:], Provenance.OBSERVED, "seen at the simulated device", holds=False)
        return bool(new)

    def _resume(self) -> bool:
        """A port that was pulled is opened again once its adapter is back, under whatever number; the session goes on."""
        now = time.monotonic()
        if not self._lost or now - self._looked_at < LOOK_EVERY_S:
            return False
        self._looked_at = now
        if not self.simulated:
            found = again(self.store, self.link_id, self.link.address or "")
            if found is None:
                return False
            if found != self.link.address:
                model = msgspec.structs.replace(self.model, address=found)
                self.store.save_link(model, self.name, self.link_id)
                self.model, self.link = model, resolve_link(model, self.catalog)
        self.listen(self.session)
        return True

    def utterances(self) -> list[Utterance]:
        """What was said by either side, oldest first."""
        return self.live.utterances()

    def lines(self) -> Lines:
        """States of the handshake lines."""
        return self.live.lines()

    # What follows

    def _refused(self, error: CourierError, lost: bool) -> None:
        """The machine said no: evidence for the line, a fact for the record."""
        text = getattr(error, "text", str(error))
        remedy = getattr(error, "remedy", "")
        self.evidence = replace(self.evidence, refusal=text, remedy=remedy, lost=lost, opened=False)
        self._keep("port", text[0].upper() + text[1:], Provenance.OBSERVED, "the operating system", holds=False)

    def _keep(self, subject: str, text: str, provenance: Provenance, source: str, holds: bool = True) -> None:
        fact = Fact(subject, text, provenance, source, time.time(), holds)
        self._measured.append(fact)
        self.store.add_facts(self.link_id, [fact])

    def facts(self) -> list[Fact]:
        """What we know, the newest of each subject, newest first; the verdict on the wiring on top of the documents."""
        told = fact_texts.documented(self.link, self._documented_at)
        measured = [
            f for f in self._measured if f.subject not in ("greeting", "heard") or self.evidence.heard is not Traffic.NOTHING
        ]
        if not self.evidence.answered:
            measured = [f for f in measured if f.subject not in ("identity", "both ways")]
        return fact_texts.newest([*told, fact_texts.of_trace(self.trace, self._documented_at), *measured])

    def places(self) -> list[Place]:
        """The places of the line."""
        return places(self.link, self.trace, self.evidence, self.simulated)

    @property
    def simulated(self) -> bool:
        """Whether the port is one of the simulator's."""
        return bool(self.link.address and self.link.address.startswith("sim:"))

    def wire_map(self) -> WireMap:
        """The conductor map."""
        return wire_map(self.trace)

    def next_step(self) -> NextStep:
        """The recommended next action."""
        state = (self.model, self.kit, replace(self.evidence), self.listening, self.armed)
        if self._step is None or self._step[0] != state:
            step = next_step(self.link, self.trace, self.evidence, self.catalog, self.kit, self.listening, self.armed)
            self._step = (state, step)
        return self._step[1]

    def tick(self, index: int, done: bool) -> None:
        """Note that an act of the device sheet is done (or is not after all), with the evidence that the sheet names."""
        sheet = self.link.sheet
        if sheet is not None:
            act = acts(sheet, self.catalog.cautions)[index]
            text = act.act if done else f"Not done: {act.act}"
            self._keep(f"act {index + 1}", text, Provenance.OBSERVED, act.proof if done else "taken back by you")

    def ticked(self) -> set[int]:
        """Indices of the sheet's acts that are done."""
        latest = {f.subject: f.text for f in self._measured if f.subject.startswith("act ")}
        return {int(subject[4:]) - 1 for subject, text in latest.items() if not text.startswith("Not done: ")}

    def change_kit(self, kit: KitModel) -> None:
        """Take another version of the kit; it is saved before this returns."""
        self.kit = kit
        save_kit(self.store, kit)

    def measured(self, subject: str, text: str, holds: bool = True, by: str = "meter at the bench") -> None:
        """Note what was measured about this link, and by what."""
        self._keep(subject, text, Provenance.MEASURED, by, holds)

    def keep_proof(self) -> int:
        """Put the proof into the records; returns its number. Raises BadInput where nothing is proven yet."""
        if not self.evidence.answered:
            raise BadInput("nothing is proven yet: the device has not answered")
        number = self.store.add_proof(self.link_id, make_proof(self.link, self.evidence, self.utterances(), self.facts()))
        self.evidence.proof_kept = True
        self.change_kit(credited(self.kit, self.model.chain, served=True))
        self._keep("proof", f"Proof {number} is in the record", Provenance.OBSERVED, "kept by this program")
        return number
