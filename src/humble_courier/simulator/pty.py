"""A simulated device on a pseudo-terminal, so that any other program can talk to it.

The speed that the other program sets on the pty is the computer's rate. A Linux pty knows no other frame than eight
bits without parity (drivers/tty/pty.c, pty_set_termios), so the computer's frame is taken to be the device's own.
"""

import fcntl
import os
import select
import struct
import tty
from dataclasses import replace
from pathlib import Path

from humble_courier.catalog.load import Catalog
from humble_courier.domain.clock import SystemClock
from humble_courier.domain.settings import Settings
from humble_courier.errors import MachineRefused
from humble_courier.simulator.address import SimAddress
from humble_courier.simulator.bench import Bench

_TCGETS2 = 0x802C542A  # asm-generic/ioctls.h with struct termios2 of 44 bytes: the speed as a plain number
_TERMIOS2 = "4IB19s2I"
_STEP = 0.02  # seconds between looks at the speed while nothing happens


def rate_of(fd: int) -> int:
    """Speed in bit/s that is set on a tty."""
    packed = fcntl.ioctl(fd, _TCGETS2, bytes(struct.calcsize(_TERMIOS2)))
    return int(struct.unpack(_TERMIOS2, packed)[-1])


class PtyServer:
    """Serves one simulated device on a pty. `path` is made a link to the pty; it is removed on `close`.

    The device is switched on when serving begins.
    """

    def __init__(self, address: SimAddress, catalog: Catalog, path: Path | None = None) -> None:
        self._address, self._catalog = address, catalog
        self.settings: Settings = address.settings(catalog)
        self._clock = address.paced(SystemClock())
        address.bench(catalog, 0.0)  # a wrong address is told before anything is served
        self._master, self._slave = os.openpty()
        tty.setraw(self._slave)
        os.set_blocking(self._master, False)
        self.device = os.ttyname(self._slave)
        self._link = path
        if path is not None:
            self._make_link(path)
        self._bench: Bench | None = None
        self._rate = 0

    def _make_link(self, path: Path) -> None:
        try:
            if path.is_symlink():
                path.unlink()
            path.symlink_to(self.device)
        except OSError as error:
            self._link = None
            self.close()
            raise MachineRefused(f"{path} cannot be made: {error.strerror}", "Choose a path that you may write") from None

    def close(self) -> None:
        """Take the pty away."""
        os.close(self._master)
        os.close(self._slave)
        if self._link is not None:
            self._link.unlink(missing_ok=True)

    def step(self) -> None:
        """Serve for a moment: at most until the next thing happens."""
        bench = self._bench or self._switched_on()
        event = bench.next_event()
        now = self._clock.now()
        wait = _STEP if event is None else min(_STEP, max(0.0, event - now))
        ready, _, _ = select.select([self._master], [], [], wait)
        now = self._clock.now()
        rate = rate_of(self._slave)
        if rate != self._rate:
            self._rate = rate
            bench.set_computer(replace(self.settings, rate=max(rate, 1)), now)
        if ready:
            bench.write(os.read(self._master, 4096), now)
        heard = bench.advance(self._clock.now())
        if heard:
            self._deliver(bytes(one.byte for _, one in heard))

    def _switched_on(self) -> Bench:
        self._bench = self._address.bench(self._catalog, self._clock.now())
        self._bench.set_line("RTS", True, self._clock.now())
        self._bench.set_line("DTR", True, self._clock.now())
        return self._bench

    def _deliver(self, data: bytes) -> None:
        try:
            os.write(self._master, data)
        except BlockingIOError:
            return  # nobody reads: a full tty loses what comes, as a real port does
