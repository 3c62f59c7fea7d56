"""What the page of the other buses does: looks for instrument libraries, and asks an instrument one question."""

from concurrent.futures import Future, ThreadPoolExecutor

from PyQt6.QtCore import QObject, pyqtSignal

from humble_courier.app.talk import instruments
from humble_courier.ui.stages.talk.visa_page import VisaPage
from humble_courier.ui.workplace import Workplace


class VisaDesk(QObject):
    """The libraries that were found last, and the question that is under way."""

    told = pyqtSignal(str, str)  # headline and reason, for the stage
    _found = pyqtSignal(object)
    _answered = pyqtSignal(str)

    def __init__(self, page: VisaPage, work: Workplace, workers: ThreadPoolExecutor) -> None:
        super().__init__(page)
        self.page, self.work, self._workers = page, work, workers
        self._libraries: list[instruments.Library] | None = []
        page.looked.connect(self._look)
        page.asked.connect(self._ask)
        self._found.connect(self._take)
        self._answered.connect(page.show_answer)

    def show(self) -> None:
        """The page is open."""
        self.told.emit(instruments.headline(self._libraries), "No instrument is written to until you ask it.")
        self.page.show_advice([(one.do, one.why) for one in self.work.catalog.visa_side_by_side.values()])
        self.page.show_libraries(self._libraries, self.work.theme)

    def _look(self) -> None:
        self._libraries = None
        self.show()
        self._workers.submit(instruments.libraries).add_done_callback(self._found.emit)

    def _take(self, done: "Future[list[instruments.Library]]") -> None:
        self._libraries = done.result()
        if self.page.isVisible():
            self.show()

    def _ask(self, resource: str, query: str) -> None:
        self.page.show_answer("asking…")
        permit = self.work.authority.permit(f"“{query}” to {resource}")

        def answered(done: "Future[str]") -> None:
            permit.withdraw()
            error = done.exception()
            self._answered.emit(done.result() if error is None else str(error))

        log = self.work.opened_link().new_log()
        self._workers.submit(instruments.ask, permit, resource, query, log=log).add_done_callback(answered)
