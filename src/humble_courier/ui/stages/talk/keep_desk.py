"""What the page "Keep this device" does: one draft, its changes, and the sheet that is kept in the end."""

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from humble_courier.app.devices.own_sheets import save
from humble_courier.app.kit.contents import end_in_words
from humble_courier.app.kit.own_connectors import learnt
from humble_courier.app.link import keeping
from humble_courier.app.link.keeping import Draft
from humble_courier.app.link.keeping_more import with_other_port
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.link.step import Action
from humble_courier.domain.facts import State
from humble_courier.domain.signals import Level
from humble_courier.errors import BadInput
from humble_courier.ui.stages.talk.keep_page import KeepPage
from humble_courier.ui.widgets.basics import fill
from humble_courier.ui.widgets.faces import Face
from humble_courier.ui.workplace import Workplace

LEVELS = [level.value for level in Level if not level.startswith("power") and level not in (Level.GROUND, Level.SHIELD)]


class KeepDesk(QObject):
    """The draft belongs to the link that was on the line when it was begun; what is heard meanwhile is taken in."""

    told = pyqtSignal(str, str)  # headline and reason, for the stage

    def __init__(self, page: KeepPage, work: Workplace) -> None:
        super().__init__(page)
        self.page, self.work = page, work
        self._draft: Draft | None = None
        self._before: list[Draft] = []
        self._offered = False  # the page was opened by the recommended act
        self._of: tuple[str, int] | None = None  # link, and how much was said when it was taken in
        page.what.addItems(list(keeping.ADDED))
        page.named.connect(lambda words, at, name: self._change(lambda now: keeping.with_part(now, words, at, name)))
        page.asks.connect(lambda words, only: self._change(lambda now: keeping.with_asking(now, words, only)))
        page.add.connect(lambda what, text: self._change(lambda now: keeping.added(now, what, text)))
        page.carries.connect(lambda contact, signal: self._change(lambda now: keeping.with_signal(now, contact, signal)))
        page.level.connect(lambda level: self._change(lambda now: keeping.with_level(now, level)))
        page.renamed.connect(lambda name: self._change(lambda now: keeping.with_name(now, name)))
        page.rest.changed.connect(self._change)
        page.rest.port_wanted.connect(self._further_port)
        page.undo.connect(self._undo)
        page.kept.connect(lambda: work.do(self._keep))
        page.tried.connect(lambda: work.do(self._try))
        work.wanted.connect(lambda step: self._wanted() if step.action is Action.KEEP_DEVICE else None)

    def _wanted(self) -> None:
        """The recommended act: its first press has opened this page, the next one keeps."""
        if self.page.isVisible() and self._offered:
            self.work.do(self._keep)
        self._offered = self.page.isVisible()

    def show(self, link: OpenLink) -> None:
        """Show the draft; begun anew for another link, or where nothing was changed by hand and more was said."""
        said = len([one for one in link.live.utterances() if one.said])
        if self._draft is None or self._of is None or self._of[0] != link.id or (self._of[1] != said and not self._before):
            self._before = []
            try:
                self._draft, self._of = keeping.begin(link, self.work.catalog), (link.id, said)
            except BadInput as error:
                self.told.emit("Nothing to keep yet", error.text)
                return
        self._show(self._draft)

    def _show(self, now: Draft) -> None:
        page, theme, catalog = self.page, self.work.theme, self.work.catalog
        rows = keeping.known(now)
        sure = sum(state is not State.UNKNOWN for state, _, _ in rows)
        ticks = "tick what only asks" if now.learnt.said else "say something to it first"
        enough = "enough to prove it next time" if now.kept or now.learnt.heard else ticks
        hint = "Taken from what was just heard. Touch what is wrong or missing; nothing needs to be typed twice."
        self.told.emit(f"Your device so far: {sure} of {len(rows)} things known, {enough}", hint)
        cards = [(one, keeping.parts_of(one), keeping.tried(now, one), bool(one.asks)) for one in now.learnt.said]
        page.show_cards(cards)
        page.show_known(rows, theme)
        port = now.base.port
        made = catalog.device_port(now.base)
        shape = catalog.shapes.get((made.connector.family, made.connector.contacts))
        signals = {contact: " ".join(text.split()[:2]) for contact, text in port.signals.items()}
        face = Face(made.connector, shape, frozenset(signals)) if shape is not None else None
        page.show_port(face, signals, keeping.SIGNALS, theme)
        fill(page.levels, [(level, level) for level in LEVELS], keeping.level_of(now))
        if not page.name.hasFocus():
            page.name.setText(now.name)
        page.rest.show_sheet(now.base, theme)
        page.back.setEnabled(bool(self._before))
        try:
            page.text.setPlainText(keeping.text_of(now))
        except BadInput as error:
            page.text.setPlainText(str(error))

    def _change(self, change: Callable[[Draft], Draft]) -> None:
        now = self._draft
        if now is None:
            return

        def act() -> None:
            made = change(now)
            if made != now:
                self._before.append(now)
                self._draft = made
                self.page.result.setText("")
            self._show(made)

        self.work.do(act)

    def _further_port(self, name: str, mark: str, words: str) -> None:
        """A further port; its connector may be one that nobody knew."""

        def change(now: Draft) -> Draft:
            end = end_in_words(learnt(words, self.work.catalog), self.work.catalog)
            return with_other_port(now, name, mark, (end.family, end.contacts, end.gender), "text")

        self._change(change)

    def _undo(self) -> None:
        if self._before:
            self._draft = self._before.pop()
            self._show(self._draft)

    def _keep(self) -> None:
        """Save the sheet; the link's device is now this one."""
        now, link = self._draft, self.work.link
        if now is None or link is None:
            raise BadInput("nothing to keep yet: listen, or say something first")
        path = save(keeping.text_of(now), self.work.catalog)
        link.is_now(now.sheet().id)
        self._before = []
        self.page.result.setText(f"Kept as {path}. It counts in every command and for every new link.")

    def _try(self) -> None:
        """What the simulated bench makes of it: each word with the answer that it would give."""
        now = self._draft
        if now is not None:
            self.page.result.setText(keeping.on_the_bench(now))
