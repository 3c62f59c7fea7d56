"""Goes the whole road by itself, beside the person, who can stop it at any moment: what it may do is `app`'s to say."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from humble_courier.ui.timer import Timer
from humble_courier.ui.workplace import Workplace

if TYPE_CHECKING:  # it comes with the protocols: the window is shown before they are read
    from humble_courier.app.link.whole_road import WholeRoad

TICK_MS = 150


class Pilot(QObject):
    """`told` gives what it does, in a few words, and whether it goes on. `act` and `search` are the window's."""

    told = pyqtSignal(str, bool)

    def __init__(self, work: Workplace, act: Callable[[], None], search: Callable[[], None]) -> None:
        super().__init__()
        self._work, self._act, self._search = work, act, search
        self._road: WholeRoad | None = None
        self._timer = Timer(self, self._step, TICK_MS)
        work.opened.connect(self._another_link)

    @property
    def going(self) -> bool:
        """Whether it is under way."""
        return self._road is not None

    def start(self) -> None:
        """The first press says what it may send; the second, soon after, means it. Raises BadInput for the first."""
        link = self._work.link
        if link is None:
            return
        from humble_courier.app.link.whole_road import WholeRoad

        link.permit_road()
        self._road = WholeRoad(self._work.clock.now())
        self._timer.start()
        self._step()

    def stop(self, why: str = "Stopped. What it learned stays.") -> None:
        """End it; what was learned stays."""
        if self._road is not None:
            self._road = None
            self._timer.stop()
            self.told.emit(why, False)

    def _another_link(self) -> None:
        """What it did and said belongs to the link before."""
        self.stop("")
        self.told.emit("", False)

    def _step(self) -> None:
        from humble_courier.app.link.whole_road import RoadTurn

        link, road = self._work.link, self._road
        if link is None or road is None:
            return
        live, works = link.live, self._work.authority.now().works
        step = link.next_step(alone=True)
        turn = road.turn(step, link.evidence, live.listening, live.armed, self._work.clock.now(), bool(works))
        if turn is RoadTurn.OVER:
            self.stop(road.told)
            return
        self.told.emit(road.told, True)
        if turn is RoadTurn.ARM:
            self._work.do(link.arm)
        elif turn is RoadTurn.ACT:
            self._act()
        elif turn is RoadTurn.SEARCH:
            if not live.armed and live.listening:
                self._work.do(link.arm)
            self._search()
