"""Where in a stream a message may begin, for protocols that put no mark in front of one: there, every byte may be the first.

Theory of operation. To ask a protocol's `cut` at every byte costs more than a fast line brings bytes. But a check is a sum,
and the sum of any stretch follows from two sums that begin at the start of the buffer: of bytes, `S[b] - S[a]`. A CRC is
linear too: with `R` the register after each byte, the register of a stretch that begins with `I` is
`R[b] xor zeros(R[a] xor I, b - a)`, where `zeros(x, n)` takes n bytes of zero in (Williams 1993, from memory). So the places
whose check fits are found for all bytes at once, and `cut` is asked there alone. Places where the end of a message has not
come count too: what is to be done with them is for `cut` to say.
"""

import numpy as np
from numpy.typing import NDArray

from humble_courier.protocols.crc import Crc

Places = NDArray[np.intp]


def octets(buffer: bytes) -> Places:
    """The bytes as numbers that may be added up."""
    return np.frombuffer(buffer, np.uint8).astype(np.intp)


def at_each(values: Places, places: Places) -> Places:
    """Values at some places; 0 where a place lies behind the end."""
    found = values[np.minimum(places, len(values) - 1)]
    return np.where(places < len(values), found, 0)


class Sums:
    """Sums of stretches of a buffer, but for multiples of 256."""

    def __init__(self, buffer: bytes) -> None:
        self._sums = np.concatenate((np.zeros(1, np.uint8), np.cumsum(np.frombuffer(buffer, np.uint8), dtype=np.uint8)))

    def of(self, begins: Places, ends: Places) -> NDArray[np.uint8]:
        """Sum of each stretch, its end not included; a stretch that reaches past the buffer stops there."""
        last = len(self._sums) - 1
        return self._sums[np.minimum(ends, last)] - self._sums[np.minimum(begins, last)]

    def nothing(self, length: int) -> NDArray[np.bool_]:
        """For each byte: whether the stretch of a length from there on adds up to 0; not where the buffer is over before."""
        same = self._sums[length:] == self._sums[: max(0, len(self._sums) - length)]
        return np.concatenate((same, np.zeros(len(self._sums) - 1 - len(same), np.bool_)))


class Stretches:
    """The CRC of 16 bits of any stretch of a buffer; `longest`: bytes of the longest one asked for."""

    def __init__(self, crc: Crc, longest: int) -> None:
        self._crc = crc
        step = np.array(crc.table, np.intp)
        values = np.arange(256)
        rows = [np.stack((values, values << 8))]
        for _ in range(longest):
            rows.append(rows[-1] >> 8 ^ step[rows[-1] & 0xFF])
        self._zeros = np.stack(rows)  # (longest + 1, 2, 256): what becomes of a low and of a high byte after n bytes of zero

    def registers(self, buffer: bytes) -> Places:
        """The register before the first byte and after each: shape (bytes + 1,)."""
        value, table = self._crc.start, self._crc.table
        found = [value]
        for byte in buffer:
            value = value >> 8 ^ table[(value ^ byte) & 0xFF]
            found.append(value)
        return np.array(found, np.intp)

    def of(self, registers: Places, begins: Places, lengths: Places) -> Places:
        """The CRC of each stretch, which must lie in the buffer."""
        turned = registers[begins] ^ self._crc.start
        shifted = self._zeros[lengths, 0, turned & 0xFF] ^ self._zeros[lengths, 1, turned >> 8]
        found: Places = registers[begins + lengths] ^ shifted ^ self._crc.end
        return found
