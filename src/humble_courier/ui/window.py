"""The window: lays out the frame and the stages, shows what is open, and lets the session's news through.

Nothing here knows any stage: desks come from the registry, and each keeps the contract of `Desk`. News of the session come
by signal and are taken in at most twenty times a second; between them the link says when it is due again.
"""

from enum import StrEnum
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence, QShortcut
from PyQt6.QtWidgets import QHBoxLayout, QMainWindow, QScrollArea, QVBoxLayout, QWidget

from humble_courier.app.link.stages import Stage, place_of
from humble_courier.app.port.sending import Authority
from humble_courier.app.preferences import KeptPreferences
from humble_courier.domain.lines import Lines
from humble_courier.errors import CourierError
from humble_courier.ui.desk import Desk
from humble_courier.ui.dropped import files_of, welcome
from humble_courier.ui.folding import Folding, PageShown
from humble_courier.ui.frame import Foot, Header, Rail
from humble_courier.ui.help import show_help
from humble_courier.ui.pilot import Pilot
from humble_courier.ui.registry import STAGES
from humble_courier.ui.theme import Theme, prefers_dark
from humble_courier.ui.timer import Timer
from humble_courier.ui.widgets.basics import Pages, WrapLabel
from humble_courier.ui.widgets.belief_strip import BeliefStrip
from humble_courier.ui.widgets.icons import Icons
from humble_courier.ui.widgets.line_view import LineView
from humble_courier.ui.workplace import Workplace

if TYPE_CHECKING:
    from humble_courier.catalog.load import Catalog

THROTTLE_MS = 50  # twenty pictures a second follow a talker without a lag
START, FIRST_PLACE = (1280, 800), "speech"
ENTRIES = {entry.stage: entry for entry in STAGES}


class Window(QMainWindow):
    """The one window of the program."""

    def __init__(
        self, catalog: "Catalog", theme: Theme, preferences: KeptPreferences | None = None,
        authority: Authority | None = None,
    ) -> None:  # fmt: skip
        super().__init__()
        self.work = Workplace(catalog, theme, preferences, authority)
        self.place = FIRST_PLACE  # on the line
        self.rail_stage: Stage | None = None  # None while the link is shown
        self.setWindowTitle("Humble Courier")
        self.setAcceptDrops(True)
        self.header, self.line, self.belief = Header(), LineView(theme), BeliefStrip(theme)
        self.rail = Rail([(entry.stage, entry.rail, entry.key) for entry in STAGES if entry.rail])
        self.foot = Foot()
        self.folding = Folding(self, self.work, self.header, self.line, self.rail)
        self.facts, self.next_bar = self.folding.facts, self.folding.bar
        self._desks: dict[Stage, Desk] = {}
        self.pilot = Pilot(self.work, self.act, self.search)
        self._timer = Timer(self, self._tick, once=True)
        self._throttle = Timer(self, self._tick, THROTTLE_MS, once=True)
        self._build()
        self._connect()
        self._seen: tuple[int, int, bool] = (0, 0, False)
        self._icons = Icons()
        self.set_theme(theme)
        for widget in (self.line, self.belief, self.facts, self.next_bar):
            widget.hide()

    def _build(self) -> None:
        self.stack = Pages()
        self.stack.setObjectName("stage")
        body = QHBoxLayout()
        body.setSpacing(0)
        # With large type a stage may need more room than the screen has: then it scrolls, and the window stays as it is.
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidget(self.stack)
        for widget, stretch in ((self.rail, 0), (scroll, 1), (self.facts, 0)):
            body.addWidget(widget, stretch)
        column = QVBoxLayout()
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.header)
        column.addWidget(self.line)
        column.addWidget(self.belief)
        column.addLayout(body, 1)
        column.addWidget(self.next_bar)
        column.addWidget(self.foot)
        centre = QWidget()
        centre.setLayout(column)
        self.setCentralWidget(centre)
        self.resize(*START)

    def _connect(self) -> None:
        """All connections of the window, in one place."""
        work = self.work
        self.line.chosen.connect(self.go_to)
        self.rail.chosen.connect(self.open_rail)
        self.header.undo.connect(lambda: work.do(work.link.undo) if work.link else None)
        self.header.diagnosis_wanted.connect(lambda: self.open_rail(Stage.DIAGNOSE))
        self.header.help.connect(lambda: show_help(self, work.theme, self.current))
        self.header.palette_wanted.connect(self._next_colours)
        work.preferred.connect(self._as_preferred)
        for offers in (self.facts, self.next_bar):
            offers.act.connect(self.act)
            offers.alone.connect(self.go_alone)
            self.pilot.told.connect(offers.show_alone)
        self.foot.arm.connect(self.toggle_arm)
        work.changed.connect(self.refresh)
        work.standing.connect(self._show_foot)
        work.heard.connect(self._heard)  # from the thread of the session: Qt hands it over to that of the window
        work.opened.connect(self._opened)
        work.going.connect(self._go)
        work.complained.connect(self.complain)
        work.begun.connect(lambda: self.desk(self.current).begin())
        work.noted.connect(lambda text: self.desk(self.current).note(text))
        for keys, step in (("Ctrl++", 0.1), ("Ctrl+=", 0.1), ("Ctrl+-", -0.1)):
            QShortcut(QKeySequence(keys), self, lambda step=step: self._text_size(work.theme.scale + step))
        QShortcut(QKeySequence("Ctrl+0"), self, lambda: self._text_size(1.0))
        QShortcut(QKeySequence("Ctrl+Shift+Z"), self, lambda: work.do(work.link.redo) if work.link else None)
        QShortcut(QKeySequence("Escape"), self, self.escape)
        self.header.switch_wanted.connect(work.switch)

    # Stages

    def desk(self, stage: Stage) -> Desk:
        """The desk of a stage; made when it is first asked for."""
        if stage not in self._desks:
            made = ENTRIES[stage].make(self.work)
            self._desks[stage] = made
            self.stack.addWidget(made.stage)
            self._claim()
        return self._desks[stage]

    @property
    def current(self) -> Stage:
        """The stage that is open."""
        link = self.work.link
        if self.work.records is None:
            return Stage.NEW_LINK
        if link is None or self.rail_stage is not None:
            return self.rail_stage or Stage.NEW_LINK
        return next((p.stage for p in link.places() if p.id == self.place), Stage.TALK)

    def go_to(self, place: str) -> None:
        """Open the stage of a place on the line."""
        self.place, self.rail_stage = place, None
        if self.work.records is not None:
            self.work.records.remember_place(place)
        self.refresh()

    def open_rail(self, stage: Stage | None) -> None:
        """Open one of the places that are not this link; None goes back to the link."""
        self.rail_stage = stage
        if stage is Stage.NEW_LINK:
            self.work.stop_all("a new link is begun")
        self.refresh()

    def _go(self, stage: Stage, page: StrEnum | None) -> None:
        """Open a stage, from wherever somebody wants it: by its place on the line, or on the rail."""
        link = self.work.link
        if ENTRIES[stage].rail:
            self.open_rail(stage)
        elif link is not None and self.current is not stage:
            self.go_to(place_of(stage, link.places()))
        if page is not None:
            self.desk(stage).stage.open_page(page)

    # Values to the widgets

    def attach(self) -> None:
        """The records are open: show the link that was left open, or the way to a first one."""
        records = self.work.opened_records()
        link_id = records.left_open()
        if link_id is not None and self.work.open(link_id):
            self.place = records.place or FIRST_PLACE
        else:
            self.rail_stage = Stage.NEW_LINK
        self.refresh()

    def _opened(self) -> None:
        self.rail_stage = None
        self._heard()
        self.refresh()
        self.line.setFocus()

    def _next_colours(self) -> None:
        """From light to dark to outdoor; it is remembered."""
        wanted = self.work.theme.next_palette().palette.name
        self.work.do(lambda: self.work.prefer(colours=wanted))

    def _text_size(self, scale: float) -> None:
        """Another size of text, within what can be read; it is remembered."""
        percent = round(100 * self.work.theme.scaled(scale).scale)
        self.work.do(lambda: self.work.prefer(text=percent))

    def _as_preferred(self) -> None:
        now = self.work.preferences
        wanted = Theme.preferred(now.text, now.colours, prefers_dark())
        if (wanted.palette, wanted.scale) != (self.work.theme.palette, self.work.theme.scale):
            self.set_theme(wanted)

    def set_theme(self, theme: Theme) -> None:
        """Colours and text size."""
        self.work.theme = theme
        self.setStyleSheet(theme.sheet(self._icons.arrow(theme.palette.quiet), self._icons.tick(theme.palette.on_action)))
        self.folding.fit()
        if self.work.records is not None:
            self.refresh()
        self._claim()

    def _claim(self) -> None:
        for wrapped in self.findChildren(WrapLabel):
            wrapped.claim()

    def refresh(self) -> None:
        """Hand the current values to all widgets."""
        link, current = self.work.link, self.current
        on_link = link is not None and not ENTRIES[current].rail
        self.rail.show_current(None if on_link else current, link is not None)
        self.folding.show(PageShown(link is not None, on_link, current is not Stage.NEW_LINK))
        self._show_frame(on_link)
        self.belief.setVisible(link is not None and current is Stage.DIAGNOSE)
        if link is not None and current is Stage.DIAGNOSE:
            advice = link.diagnosis.look().advice()
            self.belief.show_belief(advice, link.places(), self.line.middles(), self.work.theme, self.line.isHidden())
        self._keep_ticking()
        desk = self.desk(current)
        another = self.stack.currentWidget() is not desk.stage
        self.stack.setCurrentWidget(desk.stage)
        if self.work.records is not None:
            desk.show()
        focused = self.focusWidget()  # where one was is kept; what is gone, or stands above it all, is nowhere
        if another and (focused is None or not focused.isVisibleTo(self) or self.header.isAncestorOf(focused)):
            desk.stage.take_focus()

    def _show_frame(self, on_link: bool) -> None:
        link, theme = self.work.link, self.work.theme
        if link is None:
            self.header.show_link("Humble Courier", " · ".join([*self.work.marks, "no link on the line"]), can_undo=False)
            self._show_foot()
            return
        document = link.document
        if self.current is Stage.NEW_LINK:
            self.header.show_link("New link", "nothing is opened or sent while you choose", can_undo=False)
            self._show_foot()
            return
        proven = link.told
        simulated = "simulated" if self.folding.narrow else "simulated bench, no real machine is touched"
        marks = [simulated] if document.simulated else []
        told = " · ".join([*self.work.marks, proven, *marks])
        self.header.show_link(document.name, told, document.can_undo, fails=True)
        other = self.work.other_link()
        self.header.show_other(other[1] if other is not None else "")
        self.line.show_places(link.places(), self.place if on_link else "", theme)
        self.facts.show_facts(link.facts(), theme)
        step = link.next_step()
        self.facts.show_next(step)
        self.folding.show_next(step, len(link.facts()))
        self._show_foot()

    def _show_foot(self) -> None:
        link, now = self.work.link, self.work.authority.now()
        if link is None:
            self.foot.show_state(now, False, "", Lines())
            return
        live, ours = link.live, link.document.link.computer_settings
        port = link.document.port or "no port"
        self.foot.show_state(now, live.listening, f"{port}  {ours.spoken if ours else ''}", live.lines())

    # News of the session

    def _heard(self) -> None:
        """The session has news: take them in soon, together with what comes meanwhile."""
        if not self._throttle.isActive():
            self._throttle.start()

    def _tick(self) -> None:
        """Take in what the session brought; show anew what changed."""
        link = self.work.link
        self.work.taken()
        if link is None:
            return
        try:
            news = link.poll()
        except CourierError as error:  # the record cannot be written: the session goes on, and it is said
            self.work.complain(error)
            news = False
        due = link.due_s
        if due is not None:
            self._timer.start(max(THROTTLE_MS, round(due * 1000)))
        seen = link.live.count
        if news or seen != self._seen:
            self._seen = seen
            self.refresh()
        elif link.live.listening:
            self._show_foot()
            self.desk(self.current).poll()

    def _keep_ticking(self) -> None:
        """What moves by itself is shown from the moment at which a port is open, whether something comes or not."""
        if self.work.link is not None and self.work.link.due_s is not None and not self._timer.isActive():
            self._timer.start(THROTTLE_MS)

    # Intents from the widgets

    def complain(self, text: str) -> None:
        """Tell at the open stage what stands in the way."""
        self.desk(self.current).problem(text)

    def toggle_arm(self) -> None:
        """Arm or disarm; what sends by itself is stopped."""
        link = self.work.link
        if not self._stopped() and link is not None:
            self.work.do(link.arm)

    def escape(self) -> None:
        """Stop all that sends, and disarm; where nothing does, back to the line. Never arms."""
        if not self._stopped():
            self.line.setFocus()

    def search(self) -> None:
        """A device search, begun at once."""
        self.desk(Stage.TALK)
        self.work.search_wanted.emit()

    def go_alone(self) -> None:
        """The whole road by itself, or stop it."""
        if self.pilot.going:
            self.pilot.stop()
            self._stopped()
        else:
            self.work.do(self.pilot.start)

    def _stopped(self) -> bool:
        """Stop everything that sends or works at a port, in this one way; False where nothing did."""
        self.pilot.stop()
        if not self.work.stop_all("a key"):
            return False
        self.work.changed.emit()
        return True

    def act(self) -> None:
        """Do the recommended next thing, and go where the work goes on."""
        link = self.work.link
        if link is None:
            return
        step = link.next_step()
        done: list[bool] = []
        self.work.do(lambda: done.append(link.take(step)))
        if step.stage is not None:
            self._go(step.stage, step.page)
        if done == [False]:
            self.work.wanted.emit(step)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        """Files are welcome."""
        welcome(event)

    def dropEvent(self, event: QDropEvent | None) -> None:
        """Each file that was dropped is taken in."""
        for path in files_of(event) if self.work.records is not None else ():
            self.work.take_file(path)

    def fail(self, error: CourierError) -> None:
        """The records cannot be opened: say so; there is nothing to show."""
        stage = self.desk(Stage.NEW_LINK).stage
        stage.say("The records cannot be opened", str(error))
        stage.setEnabled(False)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Close the port and let go of the records."""
        self._timer.stop()
        self._throttle.stop()
        self.work.stop_all("the window is closed")
        for desk in self._desks.values():
            desk.rest()
        self.work.close_link()
        self.work.authority.changed = lambda: None  # nobody shows it any more
        if self.work.records is not None:
            self.work.records.close()
        self._icons.close()
        super().closeEvent(event)
