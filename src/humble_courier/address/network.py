"""Networks: is the computer in the device's network, and if not, which address should it take? On `ipaddress`."""

from dataclasses import dataclass
from ipaddress import IPv4Interface, IPv6Interface, ip_interface

from humble_courier.address.conflicts import Conflict
from humble_courier.errors import BadInput

Interface = IPv4Interface | IPv6Interface


@dataclass(frozen=True)
class NetworkPlan:
    """Whether the two reach each other directly, why not, and an address for the computer that would."""

    ok: bool
    conflicts: tuple[Conflict, ...]
    suggest: str | None


def interface(text: str) -> Interface:
    """An address with its prefix, `192.0.2.10/24`; raises BadInput."""
    if "/" not in text:
        raise BadInput(f"address “{text}”: the size of its network is missing, as in {text}/24")
    try:
        return ip_interface(text.strip())
    except ValueError:
        raise BadInput(f"address “{text}”: expected an address with its network, as in 192.0.2.10/24") from None


def plan_network(device: Interface, computer: Interface, others: tuple[Interface, ...] = ()) -> NetworkPlan:
    """Judge two ends of one network cable. `others`: further addresses of the computer, which must not share the network."""
    found: list[Conflict] = []
    if device.version != computer.version:
        found.append(Conflict("other-version", "computer", f"the device speaks IPv{device.version} only"))
    elif computer.ip == device.ip:
        found.append(Conflict("same-address", "computer", f"both ends have {device.ip}"))
    elif computer.ip not in device.network:
        told = f"{computer.ip} is outside the device's network {device.network}: neither finds the other"
        found.append(Conflict("other-network", "computer", told))
    elif device.ip not in computer.network:
        told = f"the computer's network {computer.network} leaves the device {device.ip} out: its answers find no way back"
        found.append(Conflict("mask-differs", "computer", told))
    found += [*_not_a_host("computer", computer), *_not_a_host("device", device)]
    ok = not found
    if ok and computer.network != device.network:
        told = f"networks differ in size ({computer.network}, {device.network}); these two still reach each other"
        found.append(Conflict("mask-differs", "computer", told, costs_only=True))
    for other in others:
        if device.ip in other.network:
            told = f"{other} of the computer claims the same network: it may send the packets the other way"
            found.append(Conflict("two-ways", str(other.ip), told))
            ok = False
    return NetworkPlan(ok, tuple(found), None if ok else free_address(device, (computer, *others)))


def _not_a_host(which: str, end: Interface) -> list[Conflict]:
    network = end.network
    if network.num_addresses <= 2:  # point-to-point links of RFC 3021 and single hosts have neither
        return []
    if end.ip == network.network_address:
        return [Conflict("network-address", which, f"{end.ip} is the name of the network itself, no device may have it")]
    if end.version == 4 and end.ip == network.broadcast_address:
        return [Conflict("broadcast-address", which, f"{end.ip} speaks to all devices, none may have it")]
    return []


def free_address(device: Interface, taken: tuple[Interface, ...]) -> str | None:
    """The highest address of the device's network that nobody here has, with its prefix; None where there is none.

    From the top, since factory defaults and gateways sit at the bottom (common practice).
    """
    network = device.network
    used = {device.ip, *(t.ip for t in taken)}
    last = int(network.broadcast_address)
    for step in range(min(network.num_addresses, len(used) + 4)):
        candidate = type(device)((last - step, network.prefixlen))
        if candidate.ip not in used and not _not_a_host("computer", candidate):
            return str(candidate)
    return None


def factory_clash(device: Interface, sites: tuple[Interface, ...]) -> tuple[Conflict, ...]:
    """What a device's factory address would collide with in the networks of the site."""
    return tuple(
        Conflict(
            "same-address", str(site.ip), f"the factory address {device.ip} is taken at this site: set it before joining"
        )
        for site in sites
        if site.ip == device.ip
    )
