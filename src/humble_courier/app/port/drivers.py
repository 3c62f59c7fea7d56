"""Which module claims an adapter, whether this kernel has it, what to do; and the plan for a laptop with another system."""

from dataclasses import dataclass
from pathlib import Path

from humble_courier.catalog.load import DATA, Catalog
from humble_courier.host.aliases import Aliases, UsbId
from humble_courier.host.modules import Block, Kernel, same
from humble_courier.host.ports import Bound, bound_to

REFERENCE = DATA / "linux-6.1-usb-serial.modules.alias"  # an excerpt of a real one, Linux 6.1


@dataclass(frozen=True)
class DriverStep:
    """One thing to do, as an exact command where there is one, and why."""

    do: str
    why: str


@dataclass(frozen=True)
class Claim:
    """The answer for one USB id. `from_reference` where this machine has no list of its own and the shipped one spoke."""

    usb: UsbId
    claimed_by: str | None
    candidates: tuple[str, ...]
    in_kernel: bool
    loaded: bool
    block: Block | None
    steps: tuple[DriverStep, ...]
    other_os: tuple[DriverStep, ...]
    from_reference: bool
    bound: tuple[Bound, ...] = ()  # of devices with that id that are plugged in


def claim(usb: UsbId, catalog: Catalog, kernel: Kernel, aliases_file: Path | None = None) -> Claim:
    """Who claims the id, and what to do until it is a port. Raises MachineRefused where the file cannot be read."""
    own = Aliases.read(aliases_file) if aliases_file is not None else kernel.aliases
    aliases = own if own is not None else Aliases.read(REFERENCE)
    modules = aliases.modules(usb)
    candidates = (*modules, *aliases.perhaps(usb))
    module = modules[0] if modules else None
    known = bool(kernel.present or kernel.built_in)
    in_kernel = module is not None and (kernel.has(module) or not known)
    loaded = module is not None and (module in kernel.loaded or module in kernel.built_in)
    block = kernel.block(module) if module else None
    bound = tuple(bound_to(kernel.root, usb.vid, usb.pid))
    steps = (*_rebind(module, bound), *_steps(usb, module, in_kernel, loaded, block))
    plan = plan_for(catalog, Laptop(linux=False))
    return Claim(usb, module, candidates, in_kernel, loaded, block, steps, plan, own is None, bound)


def _rebind(module: str | None, bound: tuple[Bound, ...]) -> tuple[DriverStep, ...]:
    """How to take an interface from a driver that is not the one that claims it, and how to rescan without pulling."""
    found = []
    for one in bound:
        if one.driver is None or module is None or same(one.driver) == same(module):
            continue
        found += [
            DriverStep(f"echo -n {one.interface} | sudo tee /sys/bus/usb/drivers/{one.driver}/unbind",
                 f"{one.driver} has bound {one.interface}, {module} should"),
            DriverStep(f"echo -n {one.interface} | sudo tee /sys/bus/usb/drivers/{module}/bind", f"gives it to {module}"),
            DriverStep(f"echo 0 | sudo tee /sys/bus/usb/devices/{one.interface.partition(':')[0]}/authorized; "
                 f"echo 1 | sudo tee /sys/bus/usb/devices/{one.interface.partition(':')[0]}/authorized",
                 "if it does not take: as if the plug were pulled and put back"),
        ]  # fmt: skip
    return tuple(found)


@dataclass(frozen=True)
class Laptop:
    """The laptop that will do the job, as far as it decides the plan."""

    linux: bool
    administrator: bool = True
    signed_only: bool = False


def plan_for(catalog: Catalog, laptop: Laptop) -> tuple[DriverStep, ...]:
    """The driver plan for a laptop. Two schools: Linux binds by itself, elsewhere the driver is placed first."""
    facts = {"no-administrator": not laptop.administrator, "signed-only": laptop.signed_only}
    return tuple(
        DriverStep(entry.do, entry.why)
        for entry in catalog.driver_plan.values()
        if entry.system in ("any", "linux" if laptop.linux else "other") and (entry.needs is None or facts[entry.needs])
    )


def _steps(usb: UsbId, module: str | None, in_kernel: bool, loaded: bool, block: Block | None) -> tuple[DriverStep, ...]:
    if module is None:
        return _unlisted(usb)
    found = []
    if not in_kernel:
        found.append(DriverStep("sudo apt install linux-modules-extra-$(uname -r)",
                          f"this kernel comes without {module}; the package with further modules may bring it"))  # fmt: skip
    if block is not None:
        found.append(DriverStep(f"sudo sed -i '{block.line}s/^/# /' {block.file}",
                          f"line {block.line} of {block.file} keeps {module} from loading by itself"))  # fmt: skip
    if not loaded:
        found.append(
            DriverStep(
                f"sudo modprobe {module}", "loads the module now; by itself it is loaded when the adapter is plugged in"
            )
        )
    found.append(DriverStep("pull the plug and put it back, then look at the ports",
                      "the kernel binds the module to the adapter when it appears"))  # fmt: skip
    return tuple(found)


def _unlisted(usb: UsbId) -> tuple[DriverStep, ...]:
    pair = f"{usb.vid:04x} {usb.pid:04x}"
    return (
        DriverStep("find out what kind of chip it is, from the adapter's sheet",
             "no module of this kernel names this id; a wrong module may talk nonsense to it"),
        DriverStep("sudo modprobe usbserial",
             "the generic driver moves bytes, but sets no rate: good for a first look only"),
        DriverStep(f"echo {pair} | sudo tee /sys/bus/usb-serial/drivers/generic/new_id",
             "binds the id until the next restart; with the right module, use its folder instead of generic"),
    )  # fmt: skip


def claim_of(
    usb_id: str, interface: str | None, device_class: str | None, catalog: Catalog, root: Path, aliases: Path | None = None
) -> Claim:
    """`claim` for an id as people write it (`0403:6001`) on the machine under `root`. Raises BadInput, MachineRefused."""
    return claim(UsbId.parse(usb_id, interface, device_class), catalog, Kernel(root), aliases)
