"""A UART receiver as a plain state machine, one tick at a time, with whole numbers only.

Written from the description of the 16x receiver in 16550 data sheets (from memory), without the array code's shortcuts:
the tests hold the fast one against it, and the benchmarks measure by how much it is faster.
"""

from dataclasses import dataclass

from humble_courier.domain.settings import Parity, Settings


@dataclass
class Symbol:
    value: int
    framing: bool
    parity: bool
    is_break: bool


def bits_of(data: bytes, settings: Settings, idle_half_bits: int = 0) -> list[int]:
    """Levels on a grid of half bits: one bit of mark, the characters, one bit of mark."""
    frame = settings.frame
    line = [1, 1]
    for byte in data:
        bits = [0] + [(byte >> i) & 1 for i in range(frame.data_bits)]
        ones = sum(bits)
        match frame.parity:
            case Parity.EVEN:
                bits.append(ones % 2)
            case Parity.ODD:
                bits.append(1 - ones % 2)
            case Parity.MARK:
                bits.append(1)
            case Parity.SPACE:
                bits.append(0)
        for bit in bits:
            line += [bit, bit]
        line += [1] * (round(2 * frame.stop_bits) + idle_half_bits)
    return [*line, 1, 1]


def receive(line: list[int], line_rate: int, settings: Settings, low_is_start: bool = False) -> list[Symbol]:
    """Run the receiver over levels that follow each other at `line_rate` per second."""
    frame, rate = settings.frame, 16 * settings.rate
    count = frame.data_bits + (frame.parity is not Parity.NONE) + 1
    symbols: list[Symbol] = []
    # The tick's level is line[tick * line_rate // rate]; ticks go on until the line has ended and nothing is under way.
    state, counter, bits, before = "idle", 0, [], 1
    tick = 0
    while True:
        slot = tick * line_rate // rate
        level = line[slot] if slot < len(line) else 1
        if slot >= len(line) and state == "idle":
            return symbols
        if state == "idle":
            if before == 1 and level == 0:
                state, counter = "start", 0
        elif state == "start":
            counter += 1
            if counter == 8:
                state = "bits" if level == 0 else "idle"
                counter, bits = 0, []
        else:
            counter += 1
            if counter == 16:
                counter = 0
                bits.append(level)
                if len(bits) == count:
                    symbol = _symbol(bits, settings)
                    symbols.append(symbol)
                    state = "idle"
                    if low_is_start and symbol.framing and not symbol.is_break:
                        state, bits = "bits", []
        before = level
        tick += 1


def _symbol(bits: list[int], settings: Settings) -> Symbol:
    n = settings.frame.data_bits
    value = sum(bit << i for i, bit in enumerate(bits[:n]))
    ones = sum(bits[:n])
    wrong = False
    match settings.frame.parity:
        case Parity.EVEN:
            wrong = (ones + bits[n]) % 2 == 1
        case Parity.ODD:
            wrong = (ones + bits[n]) % 2 == 0
        case Parity.MARK:
            wrong = bits[n] == 0
        case Parity.SPACE:
            wrong = bits[n] == 1
    return Symbol(value, bits[-1] == 0, wrong, not any(bits))
