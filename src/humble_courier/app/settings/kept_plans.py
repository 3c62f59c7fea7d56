"""The address plans of a link, kept in the records as the open documents `bus/1` and `io/1`."""

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from humble_courier.records.store import Store


class KeptPlans:
    """Plans by their kind (`bus`, `io`)."""

    def __init__(self, store: "Store", link_id: str) -> None:
        self._store, self._id = store, link_id

    def get(self, kind: str) -> str | None:
        """The text of a plan; None where none is kept."""
        return self._store.setting(self._key(kind))

    def keep(self, kind: str, text: str) -> None:
        """Keep a plan, where it is another one."""
        if self.get(kind) != text:
            self._store.remember(self._key(kind), text)

    def _key(self, kind: str) -> str:
        return f"{kind}-plan:{self._id}"
