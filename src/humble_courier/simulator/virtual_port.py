"""A port in virtual time on a simulated bench, for procedures whose runs in real time would take minutes or hours.

It offers what `Runner` needs of a port, with a clock that only moves when somebody waits.
"""

from humble_courier.domain.clock import ManualClock
from humble_courier.domain.lines import Lines
from humble_courier.domain.settings import Handshake, Settings
from humble_courier.line.marked import stuff
from humble_courier.port.permit import Permit, checked
from humble_courier.simulator.bench import Bench

READ_S = 0.02


class VirtualPort:
    """A bench with a clock of its own. Nothing leaves it without a permit."""

    marked = True

    def __init__(
        self, bench: Bench, clock: ManualClock, address: str, one_pair: bool = False, deaf_beyond: float = 0.0,
        bundle_s: float = 0.0,
    ) -> None:  # fmt: skip
        """`one_pair`: what comes in while we send is lost. `deaf_beyond`: a ratio of rates from
        which on the device makes nothing of what comes: it is left out, as hearing it would take a while.
        `bundle_s`: what comes is handed over in lots, as adapters do; a wait takes fewer looks then."""
        self._bench, self._clock, self.address = bench, clock, address
        self._one_pair, self._sending, self._character_s = one_pair, (0.0, 0.0), 0.001
        self._deaf_beyond, self._rate, self._bundle_s = deaf_beyond, 0, bundle_s

    def read(self, within_s: float = READ_S) -> bytes:
        event = self._bench.next_event() if not self._bundle_s else None
        until = self._clock.now() + (self._bundle_s or min(within_s, READ_S))
        self._clock.wait(until if event is None else min(until, max(event, self._clock.now())))
        begin, end = self._sending
        came = self._bench.advance(self._clock.now())
        deaf = self._one_pair
        return stuff([one for t, one in came if not (deaf and begin < t < end + self._character_s)])

    def write(self, data: bytes, permit: Permit | None, within_s: float) -> None:  # noqa: ARG002 (as a real port)
        checked(permit)
        now = self._clock.now()
        ratio = self._rate / self._bench.device_rate
        if self._deaf_beyond and max(ratio, 1 / ratio) > self._deaf_beyond:
            return
        self._bench.write(data, now)
        self._sending = (now, self._bench.busy_until())

    def set(self, settings: Settings) -> None:
        self._bench.set_computer(settings, self._clock.now())
        moved = {Handshake.RTS_CTS: "RTS", Handshake.DTR_DSR: "DTR"}.get(settings.handshake)
        if moved is not None:  # the handshake itself raises its line
            self._bench.set_line(moved, True, self._clock.now())
        self._character_s, self._rate = settings.character_s, settings.rate

    def forget(self) -> None:
        self._bench.advance(self._clock.now())

    def send_break(self, seconds: float, permit: Permit | None) -> None:
        checked(permit)
        self._bench.send_break(seconds, self._clock.now())
        self._clock.wait(self._clock.now() + seconds)

    def set_lines(self, dtr: bool, rts: bool, permit: Permit | None) -> None:
        checked(permit)
        self._bench.set_line("DTR", dtr, self._clock.now())
        self._bench.set_line("RTS", rts, self._clock.now())

    def lines(self) -> Lines:
        at = self._clock.now()
        return Lines(None, None, *(self._bench.line(name, at) for name in ("CTS", "DSR", "DCD", "RI")))

    def close(self) -> int:
        return 0
