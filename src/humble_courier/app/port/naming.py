"""A name that stays for a port, as a udev rule: shown and copied, never put in place."""

from collections.abc import Callable, Sequence
from pathlib import Path

from humble_courier.errors import BadInput, MachineRefused
from humble_courier.host.kinds import HostPort
from humble_courier.host.names import By, make_rule
from humble_courier.host.names import Rule as Rule
from humble_courier.host.ports import list_ports


def rule_for(address: str, name: str, by: str | None, root: Path) -> tuple[Rule, str]:
    """The rule for a port of the machine under `root`, and the text of its label.

    `by`: `serial` or `socket`; without it the serial number where there is one. Raises BadInput, and MachineRefused
    where the port is not there.
    """
    if by is not None and by not in list(By):
        raise BadInput(f"--by {by}: expected serial or socket")
    found = list_ports(root)
    port = next((p for p in found if p.address == address), None)
    if port is None:
        known = ", ".join(p.address for p in found) or "none"
        raise MachineRefused(f"{address} is not there", f"Ports of this machine: {known}")
    rule = make_rule(port, name, By(by) if by else None, found)
    return rule, f"{name} · {rule.link} · {port.driver or 'no driver named'}"


def rules_of(port: HostPort, others: Sequence[HostPort]) -> Callable[[str, str], Rule]:
    """For a port among others: the rule that a name and a school (`serial` or `socket`) make. It raises BadInput."""
    return lambda name, by: make_rule(port, name, By(by), others)
