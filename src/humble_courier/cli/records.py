"""`sheet`, `label`, `schema`, and what the catalog holds."""

from pathlib import Path
from typing import Annotated, Any

import typer

from humble_courier.app.port.label import LabelFor, LabelSize
from humble_courier.app.trade import open_catalog
from humble_courier.cli.context import catalog_of, of
from humble_courier.cli.options import Json
from humble_courier.cli.output import columns, line, print_json
from humble_courier.errors import BadInput

DIALECT = "https://json-schema.org/draft/2020-12/schema"


def sheet(
    ctx: typer.Context,
    link: Annotated[Path, typer.Argument(help="A link/1 document.")],
    pdf: Annotated[Path | None, typer.Option(help="The link sheet.")] = None,
    svg: Annotated[Path | None, typer.Option(help="The wiring as a drawing.")] = None,
) -> None:
    """Put a link on paper: the sheet as PDF, the wiring as SVG."""
    if pdf is None and svg is None:
        raise BadInput("expected --pdf FILE or --svg FILE")
    of(ctx).rooms.sheet(link, catalog_of(ctx), pdf, svg)
    for path in (pdf, svg):
        if path is not None:
            line(f"{path} written")


def label(
    ctx: typer.Context,
    link: Annotated[Path, typer.Argument(help="A link/1 document.")],
    pdf: Annotated[Path, typer.Option(help="The label to write.")],
    what: Annotated[LabelFor, typer.Option("--for", help="What it is stuck on.")] = LabelFor.ADAPTER,
    size: Annotated[str, typer.Option(help="Width and height in mm, as label printers have them.")] = "70x37",
) -> None:
    """Print the label of a link's adapter, cable or socket: place, settings, port, wiring, and the link as a QR code."""
    of(ctx).rooms.label(link, catalog_of(ctx), pdf, what, LabelSize.parse(size))
    line(f"{pdf} written")


def schema(
    kind: Annotated[
        str, typer.Argument(help="link, kit, port-numbers, bus, site, io, device, evidence, visits or records.")
    ],
) -> None:
    """The JSON Schema of an open format."""
    import msgspec

    from humble_courier.documents.bus import BusModel
    from humble_courier.documents.device import DeviceEntry
    from humble_courier.documents.evidence import EvidenceModel
    from humble_courier.documents.io import IoModel
    from humble_courier.documents.kit import KitModel
    from humble_courier.documents.link import LinkModel
    from humble_courier.documents.port_numbers import PortNumbers
    from humble_courier.documents.records import Export
    from humble_courier.documents.site import SiteModel
    from humble_courier.documents.visits import VisitsModel

    kinds: dict[str, Any] = {
        "link": LinkModel,
        "kit": KitModel,
        "port-numbers": PortNumbers,
        "bus": BusModel,
        "site": SiteModel,
        "io": IoModel,
        "device": DeviceEntry,
        "evidence": EvidenceModel,
        "visits": VisitsModel,
        "records": Export,
    }
    if kind not in kinds:
        raise BadInput(f"no format “{kind}”: known are {', '.join(kinds)}")
    found = msgspec.json.schema(kinds[kind])
    head = {"$schema": DIALECT, "$id": f"urn:humble-courier:{kind}:1", "title": f"{kind}/1"}
    print_json({**head, **found})


def parts(json: Json = False) -> None:
    """The parts of the catalog."""
    catalog = open_catalog()
    if json:
        print_json({"parts": list(catalog.part_entries.values())})
    else:
        columns([(id_, entry.name) for id_, entry in catalog.part_entries.items()])


def connectors(json: Json = False) -> None:
    """The connectors of the catalog, and which buses each can carry."""
    shapes = list(open_catalog().shapes.values())
    if json:
        print_json({"connectors": shapes})
    else:
        columns([(s.id, s.name, "; ".join(f"{c.bus} {c.how}" for c in s.carries)) for s in shapes])


def devices(
    ctx: typer.Context,
    demo: Annotated[bool, typer.Option("--demo", help="The invented devices of the demo as well.")] = False,
    json: Json = False,
) -> None:
    """Device sheets: your own, and kinds of device to begin from."""
    catalog = catalog_of(ctx)
    catalog.demo = demo
    sheets = [catalog.device(id_) for id_ in catalog.device_ids()]
    if json:
        print_json({"devices": sheets})
    else:
        columns([(s.id, s.name, s.port.settings) for s in sheets])


COMMANDS = {
    "sheet": sheet,
    "label": label,
    "schema": schema,
    "parts": parts,
    "connectors": connectors,
    "devices": devices,
}
