"""Whether somebody is at a network address: TCP connections are tried, one after another, and closed at once.

Nothing is said over them. A connection that is refused was refused by the host itself, so that somebody is there (RFC 9293,
3.5.2: a segment for a port where nobody listens is answered with a reset); silence tells nothing for sure.
"""

import errno
import socket
from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum

from humble_courier.domain.clock import Clock, SystemClock

WITHIN_S = 1.5  # a device on the same cable answers in milliseconds (common practice)
_NO_WAY = (errno.ENETUNREACH, errno.EHOSTUNREACH, errno.EADDRNOTAVAIL, errno.ENETDOWN)


class Reach(StrEnum):
    """How a connection ended."""

    OPEN = "open"  # somebody listens at this port
    REFUSED = "refused"  # somebody is there, and nobody listens at this port
    SILENT = "silent"  # nothing came within the time
    NO_WAY = "no-way"  # this computer knows no way there


@dataclass(frozen=True)
class Knock:
    """One connection that was tried: at which port, how it ended, after how many ms."""

    port: int
    reach: Reach
    ms: float


def knock(address: str, ports: Iterable[int], within_s: float = WITHIN_S, clock: Clock = SystemClock()) -> list[Knock]:
    """Try ports in order until one is open, or there is no way. `address`: without its network, as in 192.0.2.10."""
    tried: list[Knock] = []
    for port in ports:
        begun = clock.now()
        reach = _connect(address, port, within_s)
        tried.append(Knock(port, reach, (clock.now() - begun) * 1000))
        if reach in (Reach.OPEN, Reach.NO_WAY):
            break
    return tried


def _connect(address: str, port: int, within_s: float) -> Reach:
    try:
        socket.create_connection((address, port), within_s).close()
    except ConnectionRefusedError:
        return Reach.REFUSED
    except TimeoutError:
        return Reach.SILENT
    except OSError as error:
        return Reach.NO_WAY if error.errno in _NO_WAY else Reach.SILENT
    return Reach.OPEN
