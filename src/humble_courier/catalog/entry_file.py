"""A data file of the catalog: a list of entries, each parsed when it is asked for. A command needs three parts of fifty."""

import re
from collections.abc import Iterator, Mapping
from functools import cached_property
from pathlib import Path
from typing import Generic, TypeVar

from humble_courier.catalog.entries import ShapeEntry
from humble_courier.documents.base import Sourced
from humble_courier.documents.reader import Document, convert, parse, read_text
from humble_courier.errors import BadInput

E = TypeVar("E", bound=Sourced)
_BEGINS = re.compile(r"^- ", re.MULTILINE)
_FAMILY, _CONTACTS = re.compile(r"\bfamily: *([\w-]+)"), re.compile(r"\bcontacts: *(\d+)")
_ID = re.compile(r"- \{? *id: *([\w.-]+)")


class EntryFile(Generic[E]):
    """Raises BadInput with file and line where an entry is malformed, stands twice, or does not begin with its id."""

    def __init__(self, path: Path, kind: type[E]) -> None:
        self._path, self._kind = path, kind
        self._read: dict[str, tuple[Document, E]] = {}

    @cached_property
    def texts(self) -> dict[str, tuple[int, str]]:
        """Each entry's first line and its text, by id."""
        text = read_text(self._path)
        begins = [match.start() for match in _BEGINS.finditer(text)]
        if not begins:
            raise BadInput("expected a list of entries", file=self._path, line=1)
        found: dict[str, tuple[int, str]] = {}
        for begin, end in zip(begins, [*begins[1:], len(text)], strict=True):
            line, match = text.count("\n", 0, begin) + 1, _ID.match(text, begin)
            if match is None:
                raise BadInput("an entry begins with its id", file=self._path, line=line)
            if match[1] in found:
                raise BadInput(f"id “{match[1]}” stands twice", file=self._path, line=line)
            found[match[1]] = (line, text[begin:end])
        return found

    def entry(self, id_: str) -> tuple[Document, E]:
        """An entry with the document that it stands in, alone, as its only element. Raises KeyError where there is none."""
        if id_ not in self._read:
            line, text = self.texts[id_]
            document = parse(text, str(self._path), line)
            self._read[id_] = document, convert(document, self._kind, (0,))
        return self._read[id_]

    def all(self) -> dict[str, E]:
        """All entries by id, in their order."""
        return {id_: self.entry(id_)[1] for id_ in self.texts}


class Shapes(Mapping[tuple[str, int], ShapeEntry]):
    """Connector shapes by family and number of contacts; which there are is seen without parsing any of them.

    Of several files an earlier one counts: one's own shapes add to those of the trade, and replace none.
    """

    def __init__(self, *paths: Path) -> None:
        self._files = [EntryFile(path, ShapeEntry) for path in paths]

    @cached_property
    def _ids(self) -> dict[tuple[str, int], tuple[EntryFile[ShapeEntry], str]]:
        found: dict[tuple[str, int], tuple[EntryFile[ShapeEntry], str]] = {}
        for file in self._files:
            for id_, (line, text) in file.texts.items():
                family, contacts = _FAMILY.search(text), _CONTACTS.search(text)
                if family is None or contacts is None:
                    raise BadInput("a connector has a family and a number of contacts", line=line)
                found.setdefault((family[1], int(contacts[1])), (file, id_))
        return found

    def __getitem__(self, key: tuple[str, int]) -> ShapeEntry:
        file, id_ = self._ids[key]
        return file.entry(id_)[1]

    def __iter__(self) -> Iterator[tuple[str, int]]:
        return iter(self._ids)

    def __len__(self) -> int:
        return len(self._ids)
