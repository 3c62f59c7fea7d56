"""The log of a line: JSON Lines from the first byte on, written as it happens, read back, searched, told as text.

The first line says what was opened (`{"courier": "line-log/1", "address": …, "settings": …, "at": …}`), and such a line
comes again where a port is opened anew or otherwise; each other line is a piece: `{"t": seconds since the epoch, "who": "we"
or "they", "hex": bytes, "doubt": {"place": "error" or "break"}}`. What we say stands in the log before it is sent;
`{"who": "we", "hex": "", "unsent": n}` says that the last n bytes of it were not.
"""

import re
import time
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import BinaryIO

import msgspec

from humble_courier.domain.clock import Clock, SystemClock
from humble_courier.domain.received import Chunk, Doubt
from humble_courier.domain.settings import Settings
from humble_courier.domain.text import printable
from humble_courier.errors import BadInput

LONGEST_LINE = 1_000_000  # bytes; a piece is what one read brought, 64 kB at most, twice as long in hexadecimal
PAUSE_S = 2.0  # between the begin of a line and a piece of it
KIND = "line-log/1"
_HEAD = b'{"courier":"line-log/1"'


class Head(msgspec.Struct, frozen=True):
    """First line of a log."""

    courier: str
    address: str
    settings: str
    at: float


class Piece(msgspec.Struct, frozen=True):
    """What one side said at a moment."""

    t: float
    who: str
    hex: str
    doubt: dict[str, str] = {}
    unsent: int = 0

    @property
    def data(self) -> bytes:
        """The bytes."""
        return bytes.fromhex(self.hex)

    @property
    def places(self) -> dict[int, Doubt]:
        """Places of the bytes in doubt."""
        return {int(at): Doubt(word) for at, word in self.doubt.items()}


@dataclass
class LineLog:
    """Appends to a file; when the disk refuses, it says so in `problem`, keeps what is on the disk, and the session goes on.

    Pieces that could not be written are held (up to `HELD_MOST` bytes) and written when there is room again.
    """

    path: Path
    clock: Clock = SystemClock()
    problem: str = ""
    lost: int = 0
    _file: BinaryIO | None = None
    _held: list[bytes] = field(default_factory=list)
    _opened: tuple[str, str] = ("", "")
    _ours: bool = False  # whether the file was made by us: a log never goes on in one that was there before

    HELD_MOST = 4_000_000

    def begin(self, address: str, settings: str) -> None:
        """A port is open, at these settings; said once as long as neither changes."""
        if (address, settings) != self._opened:
            self._opened = address, settings
            self._put(msgspec.json.encode(Head(KIND, address, settings, self.clock.wall())))

    def heard(self, t: float, chunk: Chunk) -> None:
        """Bytes that came, with their doubts."""
        doubt = {str(i): one.value for i, one in chunk.doubts.items()}
        self._put(msgspec.json.encode(Piece(round(t, 6), "they", chunk.data.hex(), doubt)))

    def said(self, t: float, data: bytes) -> None:
        """Bytes that were sent."""
        self._put(msgspec.json.encode(Piece(round(t, 6), "we", data.hex())))

    def not_sent(self, t: float, count: int) -> None:
        """The last `count` bytes of what we were to say did not leave."""
        self._put(msgspec.json.encode(Piece(round(t, 6), "we", "", unsent=count)))

    def _put(self, line: bytes) -> None:
        self._held.append(line + b"\n")
        try:
            if self._file is None:
                self.path.parent.mkdir(parents=True, exist_ok=True)
                self._file = self._open()
            self._write(self._file)
        except OSError as error:
            self.problem = f"the log is not written: {error.strerror}; free some space; what comes is held meanwhile"
            self._trim()
        else:
            self.problem = ""

    def _open(self) -> BinaryIO:
        """The file: made anew under a name that nobody has taken, then gone on with."""
        stem, number = self.path.stem, 1
        while not self._ours:
            try:
                file = self.path.open("xb", buffering=0)
            except FileExistsError:
                number += 1
                self.path = self.path.with_name(f"{stem}-{number}{self.path.suffix}")
            else:
                self._ours = True
                return file
        return self.path.open("ab", buffering=0)

    def _write(self, file: BinaryIO) -> None:
        """All that is held, in one piece; what a full disk takes only in part is written on from there."""
        data = b"".join(self._held)
        written = file.write(data) or 0
        self._held = [data[written:]] if written < len(data) else []
        if self._held:
            raise OSError(28, "no space left on the device")

    def _trim(self) -> None:
        while sum(map(len, self._held)) > self.HELD_MOST and len(self._held) > 1:
            self.lost += len(self._held.pop(1))  # the first may stand half in the file already

    def close(self) -> None:
        """Close the file."""
        if self._file is not None:
            self._file.close()
            self._file = None


def is_log(data: bytes) -> bool:
    """Whether bytes are a log of this program."""
    return data.startswith(_HEAD)


def newest(path: Path, size: int) -> bytes:
    """The first line of a log and the last `size` bytes of it, from the begin of a line on."""
    with path.open("rb") as file:
        head, whole = file.readline(), path.stat().st_size
        if whole - len(head) > size:
            file.seek(whole - size)
            file.readline()
        return head + file.read()


def log_settings(data: bytes) -> Settings:
    """The settings with which a log was heard; raises BadInput where its first line does not tell them."""
    try:
        return Settings.parse(msgspec.json.decode(data.split(b"\n", 1)[0], type=Head).settings)
    except msgspec.MsgspecError as error:
        raise BadInput(f"the first line of the log: {error}", line=1) from None


@dataclass(frozen=True)
class Logged:
    """What a log holds; `damaged`: numbers of the lines that could not be read."""

    pieces: list[Piece]
    damaged: tuple[int, ...] = ()

    @property
    def problem(self) -> str:
        """What could not be read, in words; empty where all could."""
        if not self.damaged:
            return ""
        few = ", ".join(map(str, self.damaged[:5])) + (" and more" if len(self.damaged) > 5 else "")
        return f"{len(self.damaged)} lines of the log are damaged and left out: {few}"


def read_log(data: bytes) -> Logged:
    """Pieces of a log: a damaged line costs that line only; a last line that is cut off is no damage."""
    pieces, damaged = [], []
    lines = data.split(b"\n")
    for number, line in enumerate(lines, start=1):
        if number == 1 or not line.strip() or line.startswith(_HEAD):
            continue
        piece = _piece(line)
        if piece is not None:
            pieces.append(piece)
        elif number < len(lines):
            damaged.append(number)
    return Logged(pieces, tuple(damaged))


def _piece(line: bytes) -> Piece | None:
    if len(line) > LONGEST_LINE:
        return None
    try:
        piece = msgspec.json.decode(line, type=Piece)
        good = piece.who in ("we", "they") and len(piece.data) > max(piece.places, default=-1)
    except (msgspec.MsgspecError, ValueError, RecursionError):
        return None
    return piece if good else None


def _lines(piece: Piece) -> Iterator[Piece]:
    """A piece cut behind each line end; what was not sent stands by itself."""
    if piece.unsent:
        yield piece
        return
    at = 0
    for line in re.findall(rb"[^\n]*\n|[^\n]+", piece.data):
        end = at + len(line)
        yield Piece(
            piece.t, piece.who, line.hex(), {str(int(i) - at): d for i, d in piece.doubt.items() if at <= int(i) < end}
        )
        at = end


def merged(pieces: Iterable[Piece]) -> Iterator[Piece]:
    """Pieces of one side that belong together: until its line ends, or a pause, or the other side speaks."""
    held: Piece | None = None
    for piece in (part for whole in pieces for part in _lines(whole)):
        if (
            held is None
            or held.who != piece.who
            or held.data.endswith(b"\n")
            or held.unsent
            or piece.unsent
            or piece.t - held.t > PAUSE_S
        ):
            if held is not None:
                yield held
            held = piece
        else:
            moved = {str(int(at) + len(held.hex) // 2): word for at, word in piece.doubt.items()}
            held = Piece(held.t, held.who, held.hex + piece.hex, {**held.doubt, **moved})
    if held is not None:
        yield held


def as_text(pieces: Iterable[Piece]) -> Iterator[str]:
    """A log for people, a line each: time, who, text."""
    for piece in merged(pieces):
        at = time.strftime("%H:%M:%S", time.localtime(piece.t)) + f".{int(piece.t % 1 * 1000):03d}"
        said = f"(the last {piece.unsent} bytes of it were not sent)" if piece.unsent else printable(piece.data)
        yield f"{at}  {'we said  ' if piece.who == 'we' else 'they said'}  {said}"


def search(pieces: Iterable[Piece], words: str) -> list[Piece]:
    """Pieces that hold a text (upper and lower case alike), or bytes written in hexadecimal with spaces (`0D 0A`)."""
    wanted = words.lower().encode("latin-1", "replace")
    numbers = _hex(words)
    return [p for p in merged(pieces) if wanted in p.data.lower() or (numbers is not None and numbers in p.data)]


def _hex(words: str) -> bytes | None:
    parts = words.split()
    if len(parts) < 2 or any(len(part) != 2 for part in parts):
        return None
    try:
        return bytes.fromhex(words)
    except ValueError:
        return None
