"""What a change of the link touches: so that only that is closed, withdrawn or set anew, and all the rest goes on."""

from dataclasses import dataclass

from humble_courier.app.port.opening import address_of, is_simulated
from humble_courier.catalog.links import Link


@dataclass(frozen=True)
class Touched:
    """`address`: another port. `bench`: what stands at a simulated one. `settings`: of the computer's end; `theirs`: on
    paper. `sheet`: another sheet or another revision. `drawing`: the parts between. `unit`: another of those on the bus.
    """

    address: bool
    bench: bool
    settings: bool
    theirs: bool
    sheet: bool
    drawing: bool
    unit: bool


def touched(before: Link, after: Link) -> Touched:
    """Between two versions of one link."""
    same_port = before.address == after.address
    simulated = same_port and is_simulated(after.address or "")
    return Touched(
        address=not same_port,
        bench=simulated and address_of(before) != address_of(after),
        settings=before.computer_settings != after.computer_settings,
        theirs=before.device_settings != after.device_settings,
        sheet=before.sheet != after.sheet,
        drawing=before.model.chain != after.model.chain,
        unit=before.model.unit != after.model.unit,
    )
