"""The demo's machine: a folder that stands for a laptop with the valley's adapters; plugs can be pulled and put back."""

import shutil
from pathlib import Path

from humble_courier.app.files import unwritable
from humble_courier.app.port.drivers import REFERENCE
from humble_courier.domain.clock import Clock, SystemClock
from humble_courier.simulator.machine import Plug, SimulatedMachine, Trouble

ELSE = "Make room, or choose another folder: --data DIR"
LOGGER = Plug("0403", "6001", "ftdi_sio", "ftdi_sio", serial="SK0001", power_ma=90)
TWIN = Plug("1a86", "7523", "ch341", "ch341-uart", power_ma=98)
BLOCKED = Plug("067b", "2303", "pl2303", "pl2303", trouble=Trouble.NO_DRIVER)


class DemoMachine:
    """Two adapters of a kind without serial numbers, one with, one whose module is blocked, a port of the board, a pty."""

    def __init__(self, folder: Path, clock: Clock = SystemClock()) -> None:
        self._clock = clock
        shutil.rmtree(folder, ignore_errors=True)
        self._folder = folder
        with unwritable(folder, ELSE):
            self._make(folder)

    def _make(self, folder: Path) -> None:
        self.machine = SimulatedMachine(folder, REFERENCE.read_text())
        self._begun = self._clock.now()
        self._pulled: list[tuple[Plug, str]] = []
        self._plugs = {"1-2": LOGGER, "1-3.1": TWIN, "1-3.2": TWIN, "1-4": BLOCKED}
        self.machine.native()
        self.machine.hub("1-3", own_supply=False)
        self.machine.pty(4, 2101, "bench")
        self.machine.block("pl2303")
        for socket, plug in self._plugs.items():
            self.machine.plug(plug, socket, self._now())

    def _now(self) -> float:
        return self._clock.now() - self._begun

    @property
    def root(self) -> Path:
        """The folder that stands for the root."""
        return self.machine.root

    @property
    def pulled(self) -> bool:
        """Whether a plug lies beside its socket."""
        return bool(self._pulled)

    def pull(self, socket: str) -> None:
        """Pull what is in a socket; nothing happens where it is empty."""
        plug = self._plugs.pop(socket, None)
        if plug is not None:
            self._pulled.append((plug, socket))
            with unwritable(self._folder, ELSE):
                self.machine.pull(socket, self._now())

    def put_back(self) -> None:
        """Put the plug that was pulled last back into its socket."""
        if self._pulled:
            plug, socket = self._pulled.pop()
            self._plugs[socket] = plug
            with unwritable(self._folder, ELSE):
                self.machine.plug(plug, socket, self._now())

    @property
    def log(self) -> str:
        """The kernel log so far."""
        return self.machine.log_file.read_text()
