"""What is seen of a link at one moment: what the next act is chosen from."""

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass

from humble_courier.app.diagnose.advice import Advice
from humble_courier.app.link.evidence import Evidence
from humble_courier.app.link.second_visit import Earlier
from humble_courier.catalog.links import Link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.kit import KitModel
from humble_courier.wiring.trace import Trace


@dataclass(frozen=True)
class LinkSeen:
    """`undone`: acts of the sheet before the first words that are not ticked; `said`: by us in this session.

    `diagnosed`: what the diagnosis of this link says now, asked for where something has failed; None where there is none.
    `alone`: the program goes on by itself, and no person can be asked for anything. `earlier`: what worked here before.
    """

    link: Link
    trace: Trace
    evidence: Evidence
    catalog: Catalog
    kit: KitModel
    listening: bool = False
    armed: bool = False
    ready_in_s: int = 0
    undone: Sequence[str] = ()
    said: Collection[str] = ()
    diagnosed: Callable[[], Advice | None] = lambda: None
    alone: bool = False
    earlier: Earlier | None = None

    @property
    def not_its_own(self) -> bool:
        """Whether the device has no sheet of its own yet: none, or only its kind."""
        sheet = self.link.sheet
        return sheet is None or self.catalog.is_kind(sheet.id)
