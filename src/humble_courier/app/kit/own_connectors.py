"""Connectors of one's own: said in words where one is needed first, as in `bayonet(3,4) plug`, drawn and known from then on.

In the brackets stands how many contacts each row has, seen on the mating face of the plug, from the left; they are numbered
in that order.
"""

import re

import yaml

from humble_courier.app.files import unwritable, write_whole
from humble_courier.catalog.load import Catalog
from humble_courier.documents.reader import read_text
from humble_courier.errors import BadInput, MachineRefused

_SAID = re.compile(r"(?P<family>[A-Za-z][\w-]*)\s*\((?P<rows>\d+(?:\s*,\s*\d+)*)\)")
MOST_CONTACTS, MOST_ROWS = 100, 8
HEAD = "# Connectors of your own. Rows are read on the mating face of the plug, from the left.\n"


def learnt(words: str, catalog: Catalog) -> str:
    """The same words with each connector that was said by its rows called by its name; a new one is kept.

    Raises BadInput where it cannot be one, or is known with other rows; MachineRefused where it cannot be kept.
    """
    return _SAID.sub(lambda said: _named(said, catalog), words)


def _named(said: re.Match[str], catalog: Catalog) -> str:
    family, counts = said["family"], [int(count) for count in said["rows"].split(",")]
    contacts = sum(counts)
    if not 1 <= contacts <= MOST_CONTACTS or len(counts) > MOST_ROWS or 0 in counts:
        raise BadInput(f"“{said[0]}”: at most {MOST_CONTACTS} contacts in {MOST_ROWS} rows, none of them empty")
    numbers = iter(range(1, contacts + 1))
    rows = [[str(next(numbers)) for _ in range(count)] for count in counts]
    known = catalog.shapes.get((family, contacts))
    if known is not None and known.rows != rows:
        told = ", ".join(str(len(row)) for row in known.rows)
        raise BadInput(f"{family} with {contacts} contacts is known with rows of {told}: give yours another name")
    if known is None:
        _keep(family, contacts, rows, catalog)
    return f"{family} {contacts}"


def _keep(family: str, contacts: int, rows: list[list[str]], catalog: Catalog) -> None:
    path = catalog.own_connectors
    if path is None:
        raise MachineRefused("there is no folder for connectors of one's own", "Choose one: --data DIR")
    entry = {
        "id": f"{family}-{contacts}", "family": family, "contacts": contacts, "name": f"{family}, {contacts} contacts",
        "outline": "row", "rows": rows, "mark": "as seen; mark contact 1", "source": "seen on site",
    }  # fmt: skip
    before = read_text(path) if path.is_file() else HEAD
    with unwritable(path.parent, "Choose another folder: --data DIR"):
        path.parent.mkdir(parents=True, exist_ok=True)
    text = yaml.safe_dump([entry], sort_keys=False, allow_unicode=True, default_flow_style=None)
    write_whole(path, f"{before.rstrip()}\n{text}".encode())
    catalog.look_again()
