"""The desk of the page on which a link is made: judges what is picked, and puts it on the line."""

from humble_courier.app.link import choices
from humble_courier.app.link.changes import new_link
from humble_courier.app.link.stages import Stage
from humble_courier.app.port import listing
from humble_courier.app.wire.tracing import preview
from humble_courier.ui.desk import StageDesk
from humble_courier.ui.stages.new_link.stage import NewLinkStage, Picked
from humble_courier.ui.workplace import Workplace


class NewLinkDesk(StageDesk):
    """Everything of the page that is not drawing."""

    def __init__(self, work: Workplace) -> None:
        self.stage = NewLinkStage()
        super().__init__(self.stage, work)
        self.stage.made.connect(lambda picked: work.do(lambda: self._make(picked)))
        self.stage.changed.connect(self._preview)

    def show(self) -> None:
        """Offer what there is."""
        catalog, records = self.work.catalog, self.work.opened_records()
        kinds = (choices.adapters(catalog), choices.between(catalog), choices.devices(catalog))
        self.stage.show_choices(listing.choices(), *kinds, empty=not records.links())

    def _preview(self, picked: Picked) -> None:
        """Judge what is picked for a new link, before it is made."""
        if picked.device:
            model = new_link(picked.device, picked.parts, None, self.work.catalog)
            self.stage.show_preview(preview(model, self.work.catalog), self.work.theme)

    def _make(self, picked: Picked) -> None:
        """Make the link and put it on the line."""
        model = new_link(picked.device, picked.parts, picked.address or None, self.work.catalog)
        link_id = self.work.opened_records().add(model, picked.name)
        if self.work.open(link_id):
            self.work.go(Stage.WIRE)
