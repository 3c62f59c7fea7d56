"""The bag reckoned beside the window: a first one at once, then better ones, then the proof. It can be stopped."""

from concurrent.futures import Future, ThreadPoolExecutor

from PyQt6.QtCore import QObject, pyqtSignal

from humble_courier.app.kit.contents import KitPart as KitPart
from humble_courier.app.today.bag_words import BagState
from humble_courier.app.today.kept import KeptDay
from humble_courier.app.today.kept_day import PlannedDay
from humble_courier.app.today.packing import BagFound, ChanceFound, Least, Packer, Packing, SurePacker, packing
from humble_courier.ui.workplace import Workplace

SECONDS = 60.0  # of looking for the least bag; a person may take what there is sooner
SURE = "chance"  # the surest bag under a weight, in place of the least one


class BagWork(QObject):
    """One packing at a time; a new one stops the one before. `changed`: there is another state."""

    changed = pyqtSignal()
    _laid = pyqtSignal(object, object, object, object)
    _better = pyqtSignal(object, object)
    _packed = pyqtSignal(object, object)

    def __init__(self, work: Workplace) -> None:
        super().__init__()
        self._catalog_of = work
        self._workers = ThreadPoolExecutor(1, "bag")
        self._job: object = None
        self._made: Packing | None = None
        self._packer: Packer | SurePacker | None = None
        self._found: BagFound | None = None
        self._chance: ChanceFound | None = None
        self._kept = KeptDay()
        self.solving = self._safe = self._over = False
        self._laid.connect(self._lay_out)
        self._better.connect(self._improve)
        self._packed.connect(self._take)

    def begin(self, planned: PlannedDay, parts: list[KitPart], kept: KeptDay) -> None:
        """Pack another day, or the same one otherwise."""
        if self._over:
            return
        if self._packer is not None:
            self._packer.stop()
        self._made = self._packer = self._found = self._chance = None
        self._safe, self._kept = False, kept
        self.solving, job = bool(kept.visits), object()
        self._job = job
        if self.solving:
            working = self._workers.submit(self._work_out, job, planned, parts, kept)
            working.add_done_callback(lambda done: self._packed.emit(job, done))

    def _work_out(self, job: object, planned: PlannedDay, parts: list[KitPart], kept: KeptDay) -> BagFound | None:
        """Beside the window."""
        sure = kept.least == SURE
        made = packing(planned.day, parts, self._catalog_of.catalog, Least.WEIGHT if sure else Least(kept.least))
        packer = SurePacker(made, kept.limit_g) if sure else Packer(made.problem, kept.spare)
        if self._over or job is not self._job:
            return None
        self._packer = packer  # from now on it can be stopped
        self._laid.emit(job, made, packer, packer.first)
        return packer.solve(SECONDS, lambda one: self._better.emit(job, one))

    def _lay_out(self, job: object, made: Packing, packer: Packer | SurePacker, first: BagFound | None) -> None:
        if job is self._job:
            self._made, self._packer, self._found = made, packer, first
            self.changed.emit()

    def _improve(self, job: object, found: BagFound) -> None:
        if job is self._job:
            self._found = found
            self.changed.emit()

    def _take(self, job: object, done: "Future[BagFound | None]") -> None:
        if job is not self._job or done.cancelled():
            return
        found, self.solving = done.result(), False
        self._safe = found is not None
        sure = isinstance(self._packer, SurePacker)
        self._chance = self._packer.chance if isinstance(self._packer, SurePacker) else None
        self._found = found if sure else found or self._found  # stopped, or none outlives a failure: the first one serves
        self.changed.emit()

    @property
    def state(self) -> BagState | None:
        """As it is; None before the chains of all links are known."""
        if self._made is None:
            return None
        unsafe = len(self._packer.unsafe) if isinstance(self._packer, Packer) else 0
        sure = self._kept.least == SURE
        chance = (self._chance.chance, self._chance.least) if self._chance is not None else None
        limit = self._kept.limit_g if sure else None
        spare = self._kept.spare and not sure
        return BagState(self._made, self._found, self.solving, spare, self._safe, unsafe, chance, limit)

    def halt(self) -> None:
        """Take the bag as it is, at once: the solver may need a while until it hears of it."""
        if self._packer is not None and self.solving:
            self._packer.stop()
            self.solving, self._job = False, None
            if not self._over:
                self.changed.emit()

    def rest(self) -> None:
        """The window goes."""
        self._over = True
        self.halt()
        self._workers.shutdown(wait=True, cancel_futures=True)
