"""A check that the program does by itself at the real port, beside the window, under a permit of one press."""

from collections.abc import Callable

from humble_courier.app.port.opening import address_of
from humble_courier.app.talk.device_search import runner
from humble_courier.catalog.links import Link
from humble_courier.diagnose.asking import HEARD, TEXT_SHARE, Asking, OwnCheck, Question, may_raise
from humble_courier.diagnose.bench_link import question_of
from humble_courier.domain.text import Terminator, printable, share_of_text
from humble_courier.port.authority import Authority
from humble_courier.port.log import LineLog
from humble_courier.procedures.device_search.found import Found as Found
from humble_courier.procedures.runner import Opens, Runner

FEWEST_SIGNS = 3  # different characters of an answer to words that no sheet knows


class OwnCheckRun:
    """One check. `says`: what it will send, in a sentence, empty where it only listens; `outcome` once it is over."""

    def __init__(
        self, asking: Asking, check: str, link: Link, log: LineLog | None, authority: Authority | None = None,
        opens: Opens | None = None,
    ) -> None:  # fmt: skip
        self._procedure, self._link, self._log = OwnCheck(asking, check), link, log
        self._authority, self._opens = authority or Authority(), opens
        self.check, self.running, self._stopped = check, False, False
        self._runner: Runner | None = None
        words = asking.question.words if asking.question is not None else ()
        told = " and ".join(f"“{printable(one)}”" for one in words)
        self.says = "" if check in HEARD else told

    def run(self) -> None:
        """Do it; returns when it is over or was stopped."""
        permit = self._authority.permit(f"a check of the diagnosis: {self.says}") if self.says else None
        self._runner = runner(
            [self._procedure.asking.address], self._link.sheet, permit, self._log, self._authority, "a check", self._opens
        )
        self.running = True
        try:
            self._runner.run(self._procedure)
        finally:
            self.running = False
            if permit is not None:
                permit.withdraw()

    def cancel(self) -> None:
        """Stop soon; nothing is sent from now on."""
        self._stopped = True
        if self._runner is not None:
            self._runner.stop()

    @property
    def found(self) -> Found | None:
        """With which settings and which end it was answered; None where it was not."""
        if self._procedure.answered is None:
            return None
        step, came = self._procedure.answered
        asked = self._procedure.asking.question
        end = Terminator.of(step.say).spoken if asked is not None and asked.text else ""
        words = printable(step.say.strip(b"\r\n")) if asked is not None and asked.text else ""
        return Found(step.address, step.settings, "", None, printable(came.data.strip())[:60], end, (), words)

    @property
    def outcome(self) -> str:
        """The outcome; empty where it was refused or stopped."""
        return "" if self._procedure.refused or self._stopped else self._procedure.outcome


def asking_of(link: Link, words: str, end: Terminator) -> Asking | None:
    """How the device of a link is asked: as its sheet says, else with words that a person typed; None without a port."""
    if not link.address or link.computer_settings is None:
        return None
    question = question_of(link)
    if question is None and words:
        question = Question((words.encode("latin-1", "replace") + end.octets,), _sensible(words), (words,), end)
    power_up_s = link.sheet.power_up.after_s if link.sheet is not None and link.sheet.power_up is not None else 0.0
    return Asking(address_of(link), link.computer_settings, question, _plain, power_up_s, may_raise(link.sheet))


def _plain(data: bytes) -> bool:
    return share_of_text(data) >= TEXT_SHARE


def _sensible(words: str) -> Callable[[bytes], bool]:
    """Whether something is an answer that no sheet knows: plain text that is not our own words."""

    def answered(data: bytes) -> bool:
        plain = share_of_text(data) >= 0.97 and len(set(data)) >= FEWEST_SIGNS
        return plain and data.strip() != words.encode("latin-1", "replace").strip()

    return answered
