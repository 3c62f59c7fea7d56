"""What the Play page does: shows what would be said and how it fills the line, and has it said."""

from PyQt6.QtCore import QObject, pyqtSignal

from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.talk import playing
from humble_courier.errors import BadInput
from humble_courier.ui.stages.talk.play_page import PlayPage
from humble_courier.ui.workplace import Workplace


class PlayDesk(QObject):
    """Hands values to the page, and what is wanted to the link."""

    told = pyqtSignal(str, str)  # headline and reason, for the stage

    def __init__(self, page: PlayPage, work: Workplace) -> None:
        super().__init__(page)
        self.page, self.work = page, work
        self._drawn: object = None
        self._picture: playing.Picture | None = None
        page.changed.connect(lambda: work.do(self._change))
        page.listen.connect(lambda: work.do(lambda: work.opened_link().listen()))
        page.started.connect(lambda: work.do(self._start))
        page.seen.connect(lambda: work.do(lambda: work.opened_link().mark_seen()))
        page.stopped.connect(lambda: work.do(lambda: work.opened_link().live.stop_playing()))

    def show(self, link: OpenLink) -> None:
        """The page is open: show what would be said, or is."""
        page, live = self.page, link.live
        page.offer(playing.offered(self.work.catalog))
        asked = (page.typed(), page.chosen(), link.document.link.computer_settings)
        try:
            load, headline = playing.load(*asked), playing.headline(*asked)
            if self._drawn != asked:  # a way is summed second by second: once for what is typed
                self._drawn, self._picture = asked, playing.picture(*asked)
        except BadInput as error:
            self.told.emit("The talker cannot begin yet", str(error))
            return
        talking = live.playing is not None
        how = "Sends these sentences again and again; listen (F4) and arm (F12) first."
        if talking:
            how = f"Talking: {live.played} bytes have left so far." if live.played else "Talking: the first sentence is due."
        self.told.emit(headline, how)
        if self._picture is not None:
            page.show_picture(self._picture, self.work.theme)
        page.show_load(load.text, load.example, talking, live.armed and bool(page.chosen()), live.listening)

    def _start(self) -> None:
        page = self.page
        self.work.opened_link().play(playing.Playing(page.typed(), page.chosen(), self.work.clock))

    def _change(self) -> None:
        page, link = self.page, self.work.link
        if link is not None and link.live.playing is not None:
            link.live.playing.change(page.typed(), page.chosen())
