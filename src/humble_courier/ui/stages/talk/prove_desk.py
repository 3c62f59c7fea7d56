"""What the Prove page does: runs loop-back, latency and long transfers beside the window, and tells their numbers."""

from concurrent.futures import Future, ThreadPoolExecutor

from PyQt6.QtCore import QObject, pyqtSignal

from humble_courier.app.talk.port_proof import SAYS, UNPROVEN, PortProof, PortProofKind, of_known_devices
from humble_courier.app.talk.unit_round import SAYS as UNITS_SAY
from humble_courier.app.talk.unit_round import UnitsRun
from humble_courier.errors import BadInput, CourierError
from humble_courier.ui.stages.talk.prove_page import ProvePage
from humble_courier.ui.workplace import Workplace


class ProveDesk(QObject):
    """The proof that runs or ran last."""

    told = pyqtSignal(str, str)  # headline and reason, for the stage
    _stepped = pyqtSignal()
    _ended = pyqtSignal(object)

    def __init__(self, page: ProvePage, work: Workplace, workers: ThreadPoolExecutor) -> None:
        super().__init__(page)
        self.page, self.work, self._workers = page, work, workers
        self.proof: PortProof | UnitsRun | None = None
        page.asked.connect(lambda kind: work.do(lambda: self._start(PortProofKind(kind))))
        page.cancelled.connect(self.halt)
        self._stepped.connect(self.show)
        self._ended.connect(self._take)

    def another_link(self) -> None:
        """What was proven belongs to the link before."""
        self.halt()
        self.proof = None

    def show(self) -> None:
        """Show the page, with what was said by the proof that ran last."""
        link, proof = self.work.link, self.proof
        if link is None:
            return
        one_wire = link.speaks_kline
        self.page.buttons["units"].setVisible(one_wire)
        self.page.plugged.setVisible(link.document.simulated)
        rows = proof.rows() if proof is not None else of_known_devices(link.answered_here())
        self.page.show_rows(UNITS_SAY if one_wire else SAYS, rows, self.work.theme)
        running = proof is not None and proof.running
        self.page.show_running(proof.share if proof is not None and running else None)
        self.told.emit(*(UNPROVEN if proof is None or running else proof.headline()))

    def read_units(self) -> None:
        """Go round the control units, on one press."""
        self.work.do(lambda: self._start(PortProofKind.UNITS))

    def _start(self, kind: PortProofKind) -> None:
        link = self.work.link
        if link is None or self.running:
            return
        proof: PortProof | UnitsRun
        if kind is PortProofKind.UNITS and not link.speaks_kline:
            raise BadInput("this device has no K-line: choose its sheet, or the kind of vehicle that has one")
        if kind is PortProofKind.UNITS:
            lent = link.live.lends("the round of the control units")
            proof = UnitsRun.of(link.document.link, self.work.catalog, link.new_log(), self.work.authority, lent)
        else:
            proof = PortProof(
                kind,
                link.document.link,
                self.work.catalog,
                self.page.plugged.isChecked(),
                link.new_log(),
                self.work.authority,
                link.live.lends("a proof of the port"),
            )
        self.proof = proof
        self._workers.submit(proof.run, self._stepped.emit).add_done_callback(self._ended.emit)

    def halt(self) -> None:
        """Stop what runs."""
        if self.proof is not None:
            self.proof.cancel()

    def _take(self, done: "Future[None]") -> None:
        error, link, proof = done.exception(), self.work.link, self.proof
        if isinstance(error, CourierError):
            self.work.complain(error)
        elif error is not None:
            raise error
        if link is not None and isinstance(proof, UnitsRun):
            self.work.do(lambda: link.units_read(proof.shown, proof.headline()[0]))
        elif link is not None and isinstance(proof, PortProof):
            headline = proof.headline()[0]
            self.work.do(lambda: link.ledger.measured("port proof", headline, proof.good, "a plug at the far end"))
            if proof.evidence is not None:
                link.diagnosis.seen_elsewhere(*proof.evidence)

    @property
    def running(self) -> bool:
        """Whether one is under way."""
        return self.proof is not None and self.proof.running
