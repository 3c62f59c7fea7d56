"""The address plans of a link, kept in the records as the open documents `bus/1` and `io/1`."""

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from humble_courier.records.store import Store


class KeptPlans:
    """Plans by their kind (`bus`, `io`)."""

    def __init__(self, store: "Store", link_id: str) -> None:
        self._store, self._id = store, link_id
        self._seen: dict[str, str | None] = {}

    def get(self, kind: str) -> str | None:
        """The text of a plan; None where none is kept."""
        self._seen[kind] = self._store.setting(self._key(kind))
        return self._seen[kind]

    def keep(self, kind: str, text: str) -> None:
        """Keep a plan, where it is another one than was got; raises ChangedElsewhere where that was changed meanwhile."""
        was = self._seen[kind] if kind in self._seen else self.get(kind)
        if was != text:
            self._store.replace(self._key(kind), text, was)
            self._seen[kind] = text

    def _key(self, kind: str) -> str:
        return f"{kind}-plan:{self._id}"
