"""The desk of the Prepare stage: hands the acts of the device sheet to the stage, and keeps what was ticked."""

from humble_courier.ui.desk import StageDesk
from humble_courier.ui.stages.prepare.stage import PrepareStage
from humble_courier.ui.workplace import Workplace


class PrepareDesk(StageDesk):
    """Acts and ticks."""

    def __init__(self, work: Workplace) -> None:
        self.stage = PrepareStage()
        super().__init__(self.stage, work)
        self.stage.ticked.connect(lambda act, done: work.do(lambda: self.link().tick(act, done)))

    def show(self) -> None:
        """Show the acts of this link's device."""
        link = self.link()
        self.stage.show_sheet(link.document.link.sheet, self.work.catalog.cautions, link.ledger.ticked())
