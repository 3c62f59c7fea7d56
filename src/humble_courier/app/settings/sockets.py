"""The network sockets of this computer, or those of the demo's."""

from humble_courier.host.networks import addresses

DEMO = [("lan0", "192.0.2.20/24")]  # network for documentation, RFC 5737


def sockets(simulated: bool) -> list[tuple[str, str]]:
    """Sockets with their addresses, as (`eth0`, `192.0.2.7/24`)."""
    return DEMO if simulated else addresses()
