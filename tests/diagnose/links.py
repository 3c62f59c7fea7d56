"""Links to devices of the catalog, and to one that is in no sheet."""

from humble_courier.app.port.opening import open_lines
from humble_courier.catalog.links import Link, resolve_link
from humble_courier.catalog.load import Catalog
from humble_courier.diagnose.bench_link import BenchLink
from humble_courier.diagnose.model import Rows
from humble_courier.diagnose.rows import rows_of
from humble_courier.documents.link import LinkModel, LinkPort, LinkSettings

CATALOG = Catalog(demo=True)


def link_to(device: str) -> Link:
    return resolve_link(LinkModel("link/1", LinkPort(port="dte-de9"), LinkPort(device=device)), CATALOG)


def unknown_device(address: str | None = None) -> Link:
    settings = LinkSettings(computer="9600,8N1")
    model = LinkModel("link/1", LinkPort(port="dte-de9"), LinkPort(port="dce-de9"), settings=settings, address=address)
    return resolve_link(model, CATALOG)


def rows_for(device: str) -> Rows:
    link = link_to(device)
    return rows_of(BenchLink(link, CATALOG), CATALOG.causes, open_lines(link.sheet))
