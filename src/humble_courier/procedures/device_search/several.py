"""The searches of several ports that run at once, each beside the others, told as one."""

from collections.abc import Sequence

from humble_courier.procedures.device_search.found import Found, SearchEnd, Tried
from humble_courier.procedures.device_search.plan import Space
from humble_courier.procedures.device_search.search import DeviceSearch
from humble_courier.procedures.steps import Step


class Searches:
    """One search for each port. It is over for all as soon as one has found something."""

    def __init__(self, parts: Sequence[DeviceSearch]) -> None:
        self.parts = tuple(parts)

    @property
    def found(self) -> Found | None:
        """What the first of them has found."""
        return next((part.found for part in self.parts if part.found is not None), None)

    @property
    def spaces(self) -> dict[str, Space]:
        """What there is to try still, by port."""
        return {address: space for part in self.parts for address, space in part.spaces.items()}

    @property
    def ends(self) -> dict[str, tuple[SearchEnd, str]]:
        """How the search of each port has ended, where it has."""
        return {address: end for part in self.parts for address, end in part.ends.items()}

    @property
    def over(self) -> bool:
        """Whether nothing is left to go on with."""
        return self.found is not None or all(part.ends for part in self.parts)

    @property
    def tried(self) -> list[Tried]:
        """All steps that were done; of each port in order."""
        return [one for part in self.parts for one in part.tried]

    @property
    def now(self) -> list[Step]:
        """What is being done, at each port."""
        return [part.now for part in self.parts if part.now is not None and not part.ends]

    @property
    def notes(self) -> list[str]:
        """What stood out on the way."""
        return [note for part in self.parts for note in part.notes]

    @property
    def left(self) -> float:
        """Share of the belief that is not excluded yet, over all ports."""
        return sum(part.left for part in self.parts) / max(1, len(self.parts))

    @property
    def most_s(self) -> float:
        """Within which nine in ten devices are met."""
        return max((space.most_s for space in self.spaces.values()), default=0.0)

    @property
    def seconds_left(self) -> float:
        """How long the rest takes at most."""
        return max((part.seconds_left for part in self.parts), default=0.0)
