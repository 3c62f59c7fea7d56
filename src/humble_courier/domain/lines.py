"""The handshake lines of a port."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Lines:
    """States of the handshake lines as the port reports them; None where it cannot tell."""

    rts: bool | None = None
    dtr: bool | None = None
    cts: bool | None = None
    dsr: bool | None = None
    dcd: bool | None = None
    ri: bool | None = None
