"""A simulated port behind pyserial's interface: `serial.serial_for_url("sim://bench/gauge-logger?…")`."""

from typing import Any

from serial import SerialBase, SerialException
from serial.serialutil import PortNotOpenError

from humble_courier.catalog.load import Catalog
from humble_courier.domain.clock import Clock, ManualClock, SystemClock
from humble_courier.domain.received import Heard
from humble_courier.domain.settings import Frame, Handshake, Parity, Settings
from humble_courier.errors import BadInput
from humble_courier.line.marked import stuff
from humble_courier.simulator.address import SimAddress
from humble_courier.simulator.bench import Bench
from humble_courier.simulator.faults import REFUSED

PACKET = 62  # bytes that fill a packet of the adapter before its timer runs out (ftdi_sio, 64 less two of status)
LOSES_FROM = 512  # bytes of one write: the size of the buffer of such adapters (common practice)
LARGEST_BUFFER = 4096  # what a Linux tty holds for a reader (N_TTY_BUF_SIZE, drivers/tty/n_tty.c)
_STEP = 0.01  # seconds: how long a reader waits at most before the world is looked at again


class SimulatedPort(SerialBase):
    """pyserial's port on a simulated bench. It goes by the computer's clock, or by the one that `goes_by` handed in.

    With `marked` set, received bytes come in the PARMRK stuffing of the tty layer, doubts included.
    """

    # What pyserial's base keeps of its settings; its stubs do not tell.
    _port: str | None
    _baudrate: int
    _bytesize: int
    _parity: str
    _stopbits: float
    _timeout: float | None
    _xonxoff: bool
    _rtscts: bool
    _dsrdtr: bool
    _rts_state: bool
    _dtr_state: bool

    BAUDRATES = (*SerialBase.BAUDRATES, 250_000, 31_250, 10_400)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        self.clock: Clock = SystemClock()
        self._paced: Clock = self.clock  # as fast as the address says
        self.marked = False
        self._bench: Bench | None = None
        self._buffer: list[Heard] = []
        self._vanishes = float("inf")
        self._latency, self._loses = 0.0, False
        self._gathering: list[tuple[float, Heard]] = []  # in the adapter, not yet handed over
        self.overruns = 0
        self._left: list[str] = []
        super().__init__(*args, **kwargs)

    def goes_by(self, clock: Clock) -> None:
        """From the next opening on it goes by this clock."""
        self.clock = clock

    def open(self) -> None:
        """Open the port; raises SerialException where the address is wrong."""
        if self.is_open:
            raise SerialException("Port is already open.")
        if self._port is None:
            raise SerialException("Port must be configured before it can be used.")
        try:
            address = SimAddress.parse(self._port)
            for number, why in (REFUSED[one] for one in address.faults if one in REFUSED):
                raise SerialException(number, f"could not open port {self._port.partition('?')[0]}: {why}")
            self._paced = address.paced(self.clock)
            now = self._paced.now()
            self._bench = address.bench(Catalog(), now)
            self._vanishes = address.vanishes(self._paced.now())  # a slow machine has made the bench meanwhile
            self._latency, self._loses = address.latency_s, "loses-large" in address.faults
        except BadInput as error:
            raise SerialException(str(error)) from error
        self._buffer.clear()
        self._gathering.clear()
        self.is_open = True
        # Set before any time passes: what the device said while the bench was being made is read with our settings too.
        self._bench.set_computer(self._settings(), now)
        self._reconfigure_port()
        if not self._dsrdtr:
            self._update_dtr_state()
        if not self._rtscts:
            self._update_rts_state()

    def close(self) -> None:
        """Close the port."""
        if self._bench is not None:
            self._bench.unplugged(self._paced.now())
            self._left = self._bench.alarms
        self.is_open = False
        self._bench = None

    def _live(self) -> tuple[Bench, float]:
        """The bench, moved forward to this moment; raises where the port is closed or gone."""
        if not self.is_open or self._bench is None:
            raise PortNotOpenError()
        now = self._paced.now()
        self._gathering += self._bench.advance(min(now, self._vanishes))
        while self._gathering and (len(self._gathering) >= PACKET or now >= self._handed_over()):
            for _, heard in self._gathering[:PACKET]:
                if len(self._buffer) < LARGEST_BUFFER:
                    self._buffer.append(heard)
                else:
                    self.overruns += 1
            del self._gathering[:PACKET]
        if now >= self._vanishes and not self._buffer:  # what had come in is handed out first
            raise SerialException("device disconnected: the adapter was pulled out")
        return self._bench, now

    def _handed_over(self) -> float:
        """When the adapter hands over what it has gathered: at once without latency, else when its timer runs out."""
        return self._gathering[0][0] + self._latency if self._gathering else float("inf")

    def _settings(self) -> Settings:
        handshake = Handshake.NONE
        for wanted, kind in ((self._rtscts, "rts-cts"), (self._dsrdtr, "dtr-dsr"), (self._xonxoff, "xon-xoff")):
            if wanted:
                handshake = Handshake(kind)
        return Settings(self._baudrate, Frame(self._bytesize, Parity(self._parity), self._stopbits), handshake)

    def _reconfigure_port(self) -> None:
        bench, now = self._live()
        bench.set_computer(self._settings(), now)
        if self._rtscts:
            bench.set_line("RTS", True, now)
        if self._dsrdtr:
            bench.set_line("DTR", True, now)

    @property
    def alarms(self) -> list[str]:
        """What our presence has done at the device so far, or had done when the port was closed."""
        return self._live()[0].alarms if self.is_open else list(self._left)

    @property
    def in_waiting(self) -> int:
        """Bytes that can be read now."""
        self._live()
        return len(self._stuffed())

    @property
    def out_waiting(self) -> int:
        """Bytes that the handshake holds back."""
        return self._live()[0].held_back

    def _stuffed(self) -> bytes:
        return stuff(self._buffer) if self.marked else bytes(h.byte for h in self._buffer)

    def read(self, size: int = 1) -> bytes:
        """Up to `size` bytes, fewer when the time-out passes first."""
        deadline = None if self._timeout is None else self._paced.now() + self._timeout
        while True:
            bench, now = self._live()
            ready = self._stuffed()
            gone = now >= self._vanishes and bool(ready)
            if len(ready) >= size or gone or (deadline is not None and now >= deadline):
                return self._take(size)
            self._wait(bench, now, deadline)

    def _wait(self, bench: Bench, now: float, deadline: float | None) -> None:
        moments = [
            m
            for m in (bench.next_event(), self._handed_over(), deadline, self._vanishes)
            if m is not None and m != float("inf")
        ]
        if not moments:
            raise SerialException("nothing can arrive, and no time-out is set: this would wait for ever")
        # Another thread may write meanwhile, so a clock that others go by is never slept on for long.
        until = max(min(moments), now)
        self._paced.wait(until if isinstance(self.clock, ManualClock) else min(until, now + _STEP))

    def _take(self, size: int) -> bytes:
        taken: list[Heard] = []
        length = 0
        while self._buffer:
            more = len(stuff(self._buffer[:1])) if self.marked else 1
            if length + more > max(size, more if not taken else 0):
                break
            length += more
            taken.append(self._buffer.pop(0))
        return stuff(taken) if self.marked else bytes(h.byte for h in taken)

    def write(self, data: Any) -> int:
        """Hand bytes to the port; returns at once, the line takes its time."""
        bench, now = self._live()
        octets = bytes(data)
        bench.write(octets[:LOSES_FROM] if self._loses else octets, now)
        return len(octets)

    def flush(self) -> None:
        """Wait until everything has left the port."""
        bench, now = self._live()
        self._paced.wait(max(now, bench.busy_until()))

    def reset_input_buffer(self) -> None:
        """Forget what was received and not read."""
        self._live()
        self._buffer.clear()

    def reset_output_buffer(self) -> None:
        """Take back what the handshake holds; what is on the line already cannot be."""
        self._live()[0].take_back()

    def send_break(self, duration: float = 0.25) -> None:
        """Hold the line at space for `duration` seconds."""
        bench, now = self._live()
        bench.send_break(duration, now)

    def _update_break_state(self) -> None:
        """A break of unknown length is begun and ended by the caller; `send_break` says how long."""
        self._live()

    def _update_rts_state(self) -> None:
        bench, now = self._live()
        bench.set_line("RTS", bool(self._rts_state), now)

    def _update_dtr_state(self) -> None:
        bench, now = self._live()
        bench.set_line("DTR", bool(self._dtr_state), now)

    def _input(self, name: str) -> bool:
        bench, now = self._live()
        return bench.line(name, now)

    @property
    def cts(self) -> bool:
        """Clear to send."""
        return self._input("CTS")

    @property
    def dsr(self) -> bool:
        """Data set ready."""
        return self._input("DSR")

    @property
    def ri(self) -> bool:
        """Ring indicator."""
        return self._input("RI")

    @property
    def cd(self) -> bool:
        """Carrier detect."""
        return self._input("DCD")
