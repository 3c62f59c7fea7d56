"""A file of ours, taken into the records: a link, a kit, a device sheet; by its first line, not by its name."""

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import msgspec

from humble_courier.app.devices.own_sheets import save
from humble_courier.app.records.records import Records
from humble_courier.catalog.kits import kit_from_text
from humble_courier.catalog.links import link_from_text
from humble_courier.catalog.load import Catalog
from humble_courier.catalog.sheets import sheet_from_text
from humble_courier.documents.link_changes import yaml_text
from humble_courier.documents.reader import parse, read_text
from humble_courier.documents.short_link import SCHEME, link_of
from humble_courier.errors import BadInput

OURS = (".yaml", ".yml", ".json", "")
KINDS = {"link/1": "a link", "kit/1": "a kit", "device/1": "a device sheet"}


@dataclass(frozen=True)
class TakenIn:
    """What it was, in a sentence; `link_id`: the link that it made, None where it was none."""

    told: str
    link_id: str | None = None


def is_ours(path: Path) -> bool:
    """Whether a file may be one of ours, by its name; any other is kept with a link as it is."""
    return path.suffix.lower() in OURS


def take_in(path: Path, records: Records, catalog: Catalog) -> TakenIn:
    """Take in a file. Raises BadInput with file and line where it is none of ours, or not right."""
    text, name = read_text(path), str(path)
    document = parse(text, name)
    kind = document.data.get("courier") if isinstance(document.data, dict) else None
    if kind == "link/1":
        link = link_from_text(text, name, catalog)
        title = link.model.name or path.name.partition(".")[0]
        return TakenIn(f"{title} is a link of yours now", records.add(link.model, title))
    if kind == "kit/1":
        items = [one.item for one in kit_from_text(text, name, catalog)]
        bag = records.bag
        bag.change(msgspec.structs.replace(bag.kit, items=[*bag.kit.items, *items]))
        return TakenIn(f"{len(items)} kinds of parts are in your kit now, beside what was there")
    if kind == "device/1":
        sheet = sheet_from_text(text, name, catalog.cautions)
        save(text, catalog)
        return TakenIn(f"{sheet.name} is a device of yours now")
    known = ", ".join(f"{id_} ({what})" for id_, what in KINDS.items())
    raise BadInput(f"expected a document that begins with courier: and one of {known}", file=path)


def link_text(records: Records, link_id: str) -> str:
    """A link as a file that `take_in` reads. Raises BadInput where it cannot be read."""
    return yaml_text(records.document(link_id))


def is_short(text: str) -> bool:
    """Whether this is a link in short, as the code of a label says it."""
    return text.startswith(SCHEME)


@contextmanager
def file_of_short(text: str) -> Iterator[Path]:
    """A link in short as a file that `take_in` reads, for a while. Raises BadInput where it is none."""
    model = link_of(text)
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "label.link.yaml"
        file.write_text(yaml_text(model), encoding="utf-8")
        yield file
