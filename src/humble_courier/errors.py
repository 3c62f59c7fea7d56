"""The error family: each error says whose fault it is and what to do, in one line.

The exit codes are those of the command line: 2 for bad usage or input, 3 when the machine refused.
"""

from enum import StrEnum
from pathlib import Path


class CourierError(Exception):
    """Any failure that a technician is told about; `str()` is the one line that is shown."""

    exit_code = 2

    def told(self) -> dict[str, object]:
        """What a document says of it beside the line: `code`, and where they are known `text`, `file`, `line`, `remedy`."""
        return {"code": "error"}


class BadInput(CourierError):
    """What was handed in is wrong: a file, a settings string, an id, an option."""

    def __init__(self, text: str, *, file: str | Path | None = None, line: int | None = None) -> None:
        self.text, self.file, self.line = text, file, line
        place = "" if file is None else f"{file}:{line}: " if line else f"{file}: "
        super().__init__(place + text)

    def told(self) -> dict[str, object]:
        """With file and line."""
        file = None if self.file is None else str(self.file)
        return {"code": "bad-input", "text": self.text, "file": file, "line": self.line}


class PeerError(CourierError):
    """The far end said something that cannot be right."""

    exit_code = 1

    def told(self) -> dict[str, object]:
        """Nothing but its code."""
        return {"code": "peer"}


class Refusal(StrEnum):
    """Why the computer said no: what is decided goes by this, never by the words of a message."""

    ABSENT = "absent"
    NO_PERMISSION = "no-permission"
    HELD = "held"
    NOT_A_PORT = "not-a-port"
    GONE = "gone"
    NOT_ARMED = "not-armed"
    HELD_OFF = "held-off"
    NO_DISPLAY = "no-display"
    NO_LINES = "no-lines"
    DISK_FULL = "disk-full"
    LOCKED = "locked"
    DAMAGED = "damaged"
    NEWER = "newer"
    UNWRITABLE = "unwritable"
    READ_ONLY = "read-only"
    NOT_OURS = "not-ours"
    CHANGED = "changed"
    NO_SERVER = "no-server"
    OTHER = "refused"


class MachineRefused(CourierError):
    """The computer said no: permission, a missing or busy port, a full disk, a newer database.

    `remedy` is what the technician can do about it.
    """

    exit_code = 3

    def __init__(self, text: str, remedy: str = "", code: Refusal = Refusal.OTHER) -> None:
        self.text, self.remedy, self.code = text, remedy, code
        super().__init__(f"{text}. {remedy}" if remedy else text)

    def told(self) -> dict[str, object]:
        """With the remedy."""
        return {"code": self.code.value, "text": self.text, "remedy": self.remedy or None}


class NotArmed(MachineRefused):
    """Something would have been sent, and nobody has allowed it."""

    def __init__(self, text: str, remedy: str) -> None:
        super().__init__(text, remedy, Refusal.NOT_ARMED)


class ChangedElsewhere(MachineRefused):
    """Another window has written the same record since it was read here."""

    def __init__(self, what: str) -> None:
        super().__init__(
            f"{what} was changed in another window meanwhile, and was not overwritten",
            "What stands in the records is shown now: make your change again",
            Refusal.CHANGED,
        )


class NoLines(MachineRefused):
    """This kind of port has no DTR and RTS."""

    def __init__(self, address: str) -> None:
        super().__init__(f"{address} has no modem lines: DTR and RTS cannot be moved here", "", Refusal.NO_LINES)


class PortGone(MachineRefused):
    """The port was there and is no longer: the plug was pulled, or the other program ended."""

    def __init__(self, text: str, remedy: str = "") -> None:
        super().__init__(text, remedy, Refusal.GONE)


class HeldOff(MachineRefused):
    """The far end does not let us send: its handshake says wait, and the deadline has passed."""

    def __init__(self, unsent: int) -> None:
        self.unsent = unsent
        super().__init__(
            f"the device holds us off: {unsent} bytes were not sent",
            "Look at its CTS or at what it does; where it has no handshake, choose none",
            Refusal.HELD_OFF,
        )
