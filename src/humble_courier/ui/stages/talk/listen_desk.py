"""What the Listen page does: shows what is heard, and has said what a person wants said."""

from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QFileDialog

from humble_courier.app.link.headlines import talk_headline
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.link.second_visit import beside
from humble_courier.app.link.stages import Stage
from humble_courier.app.talk.log_text import write_log_text
from humble_courier.app.talk.reading import reading_of
from humble_courier.app.talk.typed_words import Typed
from humble_courier.domain.proven import ProofKind
from humble_courier.domain.text import Terminator
from humble_courier.errors import BadInput
from humble_courier.ui.stages.talk.listen_page import ListenPage
from humble_courier.ui.workplace import Workplace

FIRST_OFFERED = Terminator.CR  # where no sheet says otherwise


class ListenDesk(QObject):
    """Hands values to the page, and what is wanted to the link. `searched`: words that are looked up in the log."""

    told = pyqtSignal(str, str)  # headline and reason, for the stage

    def __init__(self, page: ListenPage, work: Workplace) -> None:
        super().__init__(page)
        self.page, self.work = page, work
        self._searched, self._half_typed, self._of = "", dict[str, str](), ""
        do, link, card = work.do, work.opened_link, page.card
        page.listen.connect(lambda: do(lambda: link().listen()))
        page.stop.connect(lambda: do(lambda: link().stop()))
        page.say_words.connect(lambda text, end: do(lambda: link().say(text, Terminator(end))))
        card.typed.connect(self._say_typed)
        card.stop_repeat.connect(lambda: do(lambda: link().live.stop_repeating()))
        page.again.connect(lambda end: do(lambda: link().say_again(Terminator(end))))
        card.pressed.connect(lambda data: do(lambda: link().press(data)))
        card.waited.connect(lambda text: do(lambda: link().live.wait_for(text)))
        card.when.connect(lambda text, typed: do(lambda: link().when(text, typed)))
        page.read_unit.connect(lambda: do(lambda: link().read_registers()))
        page.unit_chosen.connect(lambda unit: do(lambda: link().choose_unit(unit)))
        page.right.connect(lambda: do(lambda: link().mark_right()))
        card.send_break.connect(lambda: do(lambda: link().send_break()))
        page.lamps.moved.connect(lambda name, on: do(lambda: link().set_line(name, on)))
        page.again_view.again.connect(lambda: do(lambda: link().ask_again()))
        page.again_view.typed.connect(self.put)
        page.again_view.different.connect(lambda: work.go(Stage.DIAGNOSE))
        page.searched.connect(self._search_log)
        page.save_text.connect(self._save_text)

    def another_link(self) -> None:
        """What is half typed belongs to its link, and is there again when one comes back to it."""
        words, link = self.page.card.words, self.work.link
        self._half_typed[self._of] = words.text()
        self._of = link.id if link is not None else ""
        words.setText(self._half_typed.get(self._of, ""))

    def show(self, link: OpenLink) -> None:
        """The page is open."""
        page, sheet, live = self.page, link.document.link.sheet, link.live
        self.told.emit(*talk_headline(link))
        page.show_words(sheet.first_words if sheet else [], link.document.link.end or FIRST_OFFERED, live.armed)
        self._show_unit(link)
        silence = link.evidence.silence if live.armed else None
        page.show_silence(silence.end if silence is not None else None, silence.words if silence is not None else "")
        self.show_moving(link)
        shown = live.search(self._searched) if self._searched else live.utterances()
        heard, utterances, _ = live.count
        count = len(shown) if self._searched else heard + utterances
        earlier = link.earlier if link.only_again and not self._searched else None
        rows = beside(earlier, live.utterances()) if earlier is not None else []
        page.show_again(earlier, rows, [act.act for act in link.undone()], self.work.theme)
        page.show_said(shown, count, sheet.name if sheet else "the device", self.work.theme)

    def put(self, words: str) -> None:
        """Words into the field, for the person to send; Ctrl+Z brings back what was half typed there."""
        field = self.page.card.words
        if words and field.text() != words:
            field.selectAll()
            field.insert(words)
        field.setFocus()

    def _show_unit(self, link: OpenLink) -> None:
        sheet, reply, armed = link.document.link.sheet, link.evidence.reply, link.live.armed
        unknown = link.evidence.shown is None or link.evidence.shown.kind is ProofKind.MARKED
        waits = reply is not None and reply.may_be_right and unknown
        told = f"“{reply.words}” was answered “{reply.answer}”" if reply is not None and waits else ""
        reading = reading_of(link.document.link)
        if reading is None:
            self.page.show_unit(None, (1, 1), "", armed, told)
            return
        bus = sheet.addresses if sheet is not None else None
        limits = (bus.lowest, bus.highest) if bus is not None else (1, 247)
        self.page.show_unit(reading.unit, limits, reading.says, armed, told)

    def show_moving(self, link: OpenLink) -> None:
        """What moves though nothing is heard: the lamps, the activity, what is waited for."""
        page, live, theme = self.page, link.live, self.work.theme
        page.show_state(live.listening, live.armed, live.repeating, live.log_problem or live.waiting)
        page.lamps.show_lines(live.lines(), live.listening and live.armed, theme)
        page.activity.show_levels(live.activity(), theme)

    def _say_typed(self, typed: Typed) -> None:
        self.work.do(lambda: self.work.opened_link().say_typed(typed))

    def _search_log(self, words: str) -> None:
        self._searched = words.strip()
        if self.work.link is not None:
            self.show(self.work.link)

    def _save_text(self) -> None:
        path = self.work.opened_link().live.log_path
        if path is None:
            self.work.complain(BadInput("nothing was opened yet, so there is no log"))
            return
        chosen, _ = QFileDialog.getSaveFileName(self.page, "Save", f"{path.stem}.txt", "Text (*.txt)")
        if chosen:
            self.save_text_to(Path(chosen), path)

    def save_text_to(self, chosen: Path, log: Path) -> None:
        """Write a log as text."""
        self.work.do(lambda: write_log_text(log, chosen))
