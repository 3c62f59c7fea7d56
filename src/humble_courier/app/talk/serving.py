"""A simulated device on a pty, for any other program."""

from pathlib import Path

from humble_courier.app.port.opening import of_own
from humble_courier.catalog.load import Catalog
from humble_courier.domain.settings import Settings
from humble_courier.errors import BadInput
from humble_courier.simulator.address import SimAddress
from humble_courier.simulator.pty import PtyServer


def serve(device: str, options: dict[str, str | None], catalog: Catalog, pty: Path | None) -> tuple[str, PtyServer]:
    """The address of a simulated device and the server that puts it on a pty. Raises BadInput.

    `options` are those of a `sim://` address (power, fault, socket, settings); None leaves one out.
    """
    given = {name: value for name, value in options.items() if value}
    if "settings" in given:
        given["settings"] = str(Settings.parse(given["settings"]))
    address = SimAddress.parse(of_own(str(SimAddress(device, given)), catalog))
    if "vanish" in address.faults:
        raise BadInput("vanish is for addresses of this program: a pty cannot be pulled")
    return str(address), PtyServer(address, catalog, pty)
