"""What this computer wants before one leaves: modules for the adapters of the bag, and the permission to open a port."""

from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path

from humble_courier.app.today.before_leaving import LeavingAct
from humble_courier.catalog.kits import KitPart
from humble_courier.host.access import Me, who_am_i
from humble_courier.host.modules import Kernel

ADAPTER = "usb-adapter"
PORT_GROUPS = ("dialout", "uucp")  # that own the nodes of serial ports (systemd's rules; older systems)


def computer_acts(pieces: Sequence[KitPart], kinds: Mapping[str, str], root: Path = Path("/")) -> list[LeavingAct]:
    """For the pieces of a bag. `kinds`: kind of each part by its id. Reads the machine under `root`, changes nothing."""
    adapters = [piece for piece in pieces if kinds.get(piece.part.id) == ADAPTER]
    if not adapters:
        return []
    return [*_modules(adapters, Kernel(root)), *_permission(who_am_i(root))]


def _modules(adapters: Sequence[KitPart], kernel: Kernel) -> Iterator[LeavingAct]:
    for adapter in adapters:
        module, name = adapter.item.module, adapter.part.name
        if not module:
            do = f"Try: plug the {name} into this computer once, and see that a port appears"
            yield LeavingAct("try", do, "which module drives it is not noted in the kit, and there need be no network there")
        elif not kernel.has(module):
            why = f"it drives the {name}, and kernel {kernel.release} of this computer does not have it"
            yield LeavingAct("fetch", f"Fetch: the module {module}", why)
        elif (block := kernel.block(module)) is not None:
            why = f"it drives the {name}, and line {block.line} of {block.file} keeps it from loading: {block.text}"
            yield LeavingAct("ask", f"Have the module {module} allowed", why)


def _permission(me: Me) -> Iterator[LeavingAct]:
    groups = {name: number for number, name in me.group_names.items() if name in PORT_GROUPS}
    name = next((one for one in PORT_GROUPS if one in groups), None)
    if me.uid == 0 or name is None or groups[name] in me.groups:
        return
    if groups[name] in me.listed:
        yield LeavingAct("ask", "Log out and in again", f"{me.name} is in the group {name} from the next login on only")
        return
    why = f"ports belong to the group {name} on this computer, and {me.name} is not in it; log in anew afterwards"
    yield LeavingAct("ask", f"Get the permission to open ports: sudo usermod -a -G {name} {me.name}", why)
