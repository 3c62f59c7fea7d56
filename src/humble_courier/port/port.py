"""The one road to a port: `serial.serial_for_url`, opened listen-only, with errors in words."""

import errno
import io
import logging
import os
import select
import termios
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import serial

from humble_courier.domain.clock import Clock, SystemClock
from humble_courier.domain.lines import Lines
from humble_courier.domain.settings import Frame, Handshake, Settings
from humble_courier.errors import BadInput, HeldOff, MachineRefused, NoLines, PortGone, Refusal
from humble_courier.port.permit import Permit, checked

READ_S = 0.02  # seconds a read or a write waits: short, so that words to send, and an end to sending, do not wait long
LONGEST_BREAK_S = 0.3  # nobody can stop it meanwhile; every device takes a tenth of a second for a break (common practice)
# Of pyserial's own schemes only these open a port and nothing else: one writes a file of any name, one opens by a search.
SCHEMES = ("sim", "socket", "rfc2217", "loop")
_MAXPORT = 65_536  # bytes read at once at most
_VANISHED = (errno.EIO, errno.EBADF, errno.ENODEV, errno.ENXIO, errno.ECONNRESET, errno.EPIPE)


@dataclass(frozen=True)
class OpenLines:
    """What DTR and RTS do when the port is opened: low unless somebody knows that they may rise.

    Linux raises both for a moment when a tty is opened (drivers/tty/tty_port.c, tty_port_block_til_ready) before any
    program can lower them: where that moment does harm, the contact must stay unconnected.
    """

    dtr: bool = False
    rts: bool = False


class OpenPort:
    """An open port. `marked`: whether received bytes carry their errors in PARMRK stuffing.

    Nothing leaves it without a permit: bytes, a break, a line moved by hand. Linux keeps what a handshake holds back, and
    waits for it when a port is closed (drivers/tty/serial/serial_core.c, uart_wait_until_sent): so what has not left is
    thrown away first.
    """

    def __init__(self, raw: Any, address: str, marked: bool, clock: Clock = SystemClock()) -> None:
        self._raw, self.address, self.marked, self._clock = raw, address, marked, clock

    def read(self, within_s: float = READ_S) -> bytes:
        """What has arrived, waiting at most `within_s` (and `READ_S`); raises PortGone when the port has vanished."""
        try:
            if within_s < READ_S and not self._comes(within_s):
                return b""
            return bytes(self._raw.read(min(_MAXPORT, max(1, self._raw.in_waiting))))
        except (serial.SerialException, OSError) as error:
            raise self._gone(error) from error

    def _comes(self, within_s: float) -> bool:
        """Whether something arrives within a time that is shorter than a read."""
        descriptor = _descriptor(self._raw)
        if descriptor is not None:
            return bool(select.select([descriptor], [], [], within_s)[0])
        until = self._clock.now() + within_s
        while not self._raw.in_waiting and self._clock.now() < until:
            self._clock.wait(self._clock.now() + READ_S / 20)
        return bool(self._raw.in_waiting)

    def put(self, data: bytes, permit: Permit | None) -> int:
        """Hand over what the port takes at once; returns how many bytes. Raises NotArmed, or PortGone."""
        checked(permit)
        try:
            descriptor = _descriptor(self._raw)
            if descriptor is None:  # simulated, or a network protocol of its own
                return int(self._raw.write(data) or len(data))
            return os.write(descriptor, data[:_MAXPORT]) if select.select([], [descriptor], [], 0)[1] else 0
        except BlockingIOError:
            return 0
        except (serial.SerialException, OSError) as error:
            raise self._gone(error) from error

    def write(self, data: bytes, permit: Permit | None, within_s: float) -> None:
        """Hand over all of it; raises HeldOff after `within_s`, NotArmed as soon as the permit is taken back, PortGone."""
        until, rest = self._clock.now() + within_s, data
        while rest:
            rest = rest[self.put(rest, permit) :]
            if rest and self._clock.now() > until:
                raise HeldOff(len(rest) + self.take_back())
            if rest:
                self._clock.wait(self._clock.now() + READ_S / 4)

    @property
    def waiting(self) -> int:
        """Bytes that were handed over and have not left, as far as this kind of port tells."""
        try:
            return int(getattr(self._raw, "out_waiting", 0))
        except (serial.SerialException, OSError) as error:
            raise self._gone(error) from error

    def take_back(self) -> int:
        """Throw away what was handed over and has not left; returns how many bytes, as far as this kind of port tells."""
        waiting = self.waiting
        try:
            self._raw.reset_output_buffer()
        except (serial.SerialException, OSError, termios.error) as error:
            raise self._gone(error) from error
        return waiting

    def set(self, settings: Settings) -> None:
        """Other settings without closing, so that no line moves; raises PortGone, or BadInput for a rate that it refuses."""
        try:
            _configure(self._raw, settings, None)
            if self.marked:
                _mark_errors(self._raw)
        except (serial.SerialException, OSError, termios.error) as error:
            raise self._gone(error) from error
        except ValueError as error:
            raise BadInput(f"{self.address.partition('?')[0]}: {settings} is refused: {error}") from error

    def forget(self) -> None:
        """Throw away what has arrived and was not read."""
        try:
            self._raw.reset_input_buffer()
        except (serial.SerialException, OSError, termios.error) as error:
            raise self._gone(error) from error

    def set_lines(self, dtr: bool, rts: bool, permit: Permit | None) -> None:
        """Set DTR and RTS by hand; raises NotArmed, NoLines, or PortGone when the port has vanished."""
        checked(permit)
        try:
            self._raw.dtr, self._raw.rts = dtr, rts
        except OSError as error:
            if error.errno in (errno.ENOTTY, errno.EINVAL):
                raise NoLines(self.address.partition("?")[0]) from error
            raise self._gone(error) from error

    def lower(self, lines: OpenLines) -> None:
        """Lower DTR and RTS where `lines` says low; nothing is raised. Raises PortGone."""
        try:
            if not lines.dtr and self._raw.dtr:
                self._raw.dtr = False
            if not lines.rts and self._raw.rts:
                self._raw.rts = False
        except OSError as error:
            if error.errno not in (errno.ENOTTY, errno.EINVAL):  # a pty has none
                raise self._gone(error) from error

    def send_break(self, seconds: float, permit: Permit | None) -> None:
        """Hold the line at space; raises BadInput where that is too long, NotArmed, PortGone.

        By the begin and the end of a break, not by `tcsendbreak`: what that makes of a time differs from system to system.
        It ends early where the permit is taken back meanwhile.
        """
        if seconds > LONGEST_BREAK_S:
            raise BadInput(f"a break of {seconds:g} s: expected {LONGEST_BREAK_S:g} s at most")
        allowed = checked(permit)
        try:
            if _descriptor(self._raw) is None:
                self._raw.send_break(seconds)
                return
            self._raw.break_condition = True
            try:
                until = self._clock.now() + seconds
                while allowed.holds and (now := self._clock.now()) < until:
                    self._clock.wait(min(until, now + READ_S))
            finally:
                self._raw.break_condition = False
        except (serial.SerialException, OSError, termios.error) as error:
            raise self._gone(error) from error

    def lines(self) -> Lines:
        """States of the handshake lines; None for those that this kind of port does not tell."""
        rts, dtr = bool(self._raw.rts), bool(self._raw.dtr)
        try:
            return Lines(rts, dtr, self._raw.cts, self._raw.dsr, self._raw.cd, self._raw.ri)
        except OSError as error:
            if error.errno in (errno.ENOTTY, errno.EINVAL):  # a pty has none
                return Lines(rts, dtr)
            raise self._gone(error) from error

    @property
    def alarms(self) -> list[str]:
        """What our presence has done at a simulated device; a real one does not tell."""
        try:
            return list(getattr(self._raw, "alarms", ()))
        except serial.SerialException as error:
            raise self._gone(error) from error

    def close(self) -> int:
        """Close the port, also one that has vanished; returns how many bytes had not left, and will not."""
        try:
            unsent = self.take_back() if self._raw.is_open else 0
        except PortGone:
            unsent = 0  # nothing leaves a port that is not there
        logging.getLogger(__name__).info("%s is closed, %d bytes had not left", self.address, unsent)
        try:
            self._raw.close()
        except OSError as error:
            if error.errno not in (errno.EIO, errno.ENODEV, errno.EBADF):
                raise self._gone(error) from error
        return unsent

    @property
    def is_open(self) -> bool:
        """Whether nobody has closed it."""
        return bool(self._raw.is_open)

    def _gone(self, error: Exception) -> PortGone:
        """What vanished, in words. Errors of the system carry its number; those of pyserial's own mean that nothing came."""
        code = getattr(error, "errno", None)
        if code is None or code in _VANISHED:
            why = "the adapter was pulled out, or its far end was closed"
        else:
            why = os.strerror(code)
        return PortGone(
            f"{self.address.partition('?')[0]} is gone: {why}",
            "Put the adapter back, and begin again; what was heard is kept",
        )


class LentPort(OpenPort):
    """An open port in the hands of somebody else for a while: closing it gives it back, and no line moves."""

    def __init__(self, port: OpenPort, given_back: Callable[[], None]) -> None:
        super().__init__(port._raw, port.address, port.marked, port._clock)
        self._given_back = given_back

    def close(self) -> int:
        """Give it back; returns how many bytes had not left, and will not."""
        try:
            return self.take_back() if self._raw.is_open else 0
        except PortGone:
            return 0  # its owner finds out by itself
        finally:
            self._given_back()


def open_port(
    address: str, settings: Settings, lines: OpenLines = OpenLines(), clock: Clock = SystemClock()
) -> OpenPort:  # fmt: skip
    """Open a port address with the settings of the computer's end; a simulated port goes by this clock too.

    Raises BadInput for an address that cannot be read, MachineRefused with the remedy where the machine says no.
    """
    scheme, there, _ = address.partition("://")
    if there and scheme.lower() not in SCHEMES:
        known = ", ".join(f"{one}://" for one in SCHEMES[:3])
        raise BadInput(f"port address “{address}”: expected a port such as /dev/ttyUSB0, or one that begins with {known}")
    try:
        raw = serial.serial_for_url(address, do_not_open=True)
    except ValueError as error:
        raise BadInput(f"port address “{address}”: {error}") from None
    if hasattr(raw, "goes_by"):
        raw.goes_by(clock)
    try:
        _configure(raw, settings, lines)
        raw.open()
        marked = _mark_errors(raw)
    except (serial.SerialException, OSError, termios.error) as error:
        logging.getLogger(__name__).info("%s was not opened: %s", address, error)
        raise _refusal(address.partition("?")[0], error) from error
    except ValueError as error:
        raise BadInput(f"port {address}: {error}") from error
    logging.getLogger(__name__).info("%s is open with %s, %s", address, settings, lines)
    return OpenPort(raw, address, marked, clock)


def _configure(raw: Any, settings: Settings, lines: OpenLines | None) -> None:
    # A Linux pty has no frame but 8N1 (drivers/tty/pty.c, pty_set_termios), and glibc refuses to ask for another.
    frame = Frame() if _is_pty(raw.port) else settings.frame
    raw.baudrate = settings.rate
    raw.bytesize = frame.data_bits
    raw.parity = str(frame.parity)
    raw.stopbits = frame.stop_bits
    raw.rtscts = settings.handshake is Handshake.RTS_CTS
    raw.dsrdtr = settings.handshake is Handshake.DTR_DSR
    raw.xonxoff = settings.handshake is Handshake.XON_XOFF
    if lines is not None:
        raw.dtr, raw.rts = lines.dtr, lines.rts
    raw.timeout = READ_S
    if isinstance(raw, serial.Serial):
        raw.exclusive = True


def _descriptor(raw: Any) -> int | None:
    """The file descriptor that bytes are written to as they are; None where the port has a protocol of its own."""
    try:
        return int(raw.fileno())
    except (io.UnsupportedOperation, AttributeError):
        return None


def _is_pty(address: str) -> bool:
    return "://" not in address and Path(address).resolve().parent == Path("/dev/pts")


def _mark_errors(raw: Any) -> bool:
    """Have framing and parity errors and breaks marked, where the port can; True if it does."""
    if hasattr(raw, "marked"):
        raw.marked = True
        return True
    if not isinstance(raw, serial.Serial):
        return False
    attributes = termios.tcgetattr(raw.fileno())
    attributes[0] |= termios.PARMRK | termios.INPCK
    attributes[0] &= ~(termios.IGNPAR | termios.IGNBRK | termios.BRKINT | termios.ISTRIP)
    termios.tcsetattr(raw.fileno(), termios.TCSANOW, attributes)
    return True


def _refusal(address: str, error: Exception) -> MachineRefused | BadInput:
    code, within = getattr(error, "errno", None), error.__context__
    if code in (errno.ENOENT, errno.ENODEV, errno.ENXIO):
        return MachineRefused(f"there is no port {address}", "Plug the adapter in, or choose another port", Refusal.ABSENT)
    if code in (errno.EACCES, errno.EPERM):
        return MachineRefused(
            f"no permission to open {address}", f"See who may with: ls -l {address}", Refusal.NO_PERMISSION
        )
    if code in (errno.EBUSY, errno.EAGAIN):
        return MachineRefused(f"{address} is held by another program", f"Find it with: fuser -v {address}", Refusal.HELD)
    if code in (errno.ENOTTY, errno.EINVAL, errno.EISDIR) or isinstance(within, termios.error):
        return MachineRefused(f"{address} is not a serial port", "Choose a port from the list", Refusal.NOT_A_PORT)
    cause = error.__cause__
    if isinstance(cause, BadInput):
        return cause
    return MachineRefused(f"{address} cannot be opened: {error}", "Check the address and that the far end is there")
