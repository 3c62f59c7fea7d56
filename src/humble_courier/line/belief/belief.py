"""What is believed about a sender's settings from received bytes, and with which rate to listen next to learn most.

Theory of operation. A hypothesis is a rate, a frame, a polarity and a kind of traffic. For a receiver of a given rate
the tables say how often each of 512 symbols (byte, error or not) is received from each hypothesis; `listen` adds the
logarithms of what came to those of the prior, which is how often settings are met in the field (Bayes). Symbols are
not independent, as a character that is read wrong shifts the next one; the likelihood of n of them is therefore
raised to min(0.6, 2.8 / sqrt(n)): without that, claims of 99 % would be right less often. What a receiver cannot tell
apart (a second stop bit) is told as one.

The next rate to listen with is the one that parts the leading hypotheses best: the least sum over their pairs of
sqrt(p q) times the overlap of what would be received, the Bhattacharyya coefficient, raised to the number of symbols.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from humble_courier.domain.settings import Frame, Settings
from humble_courier.domain.text import TEXT
from humble_courier.line.belief.follow import MOST, explains, follow
from humble_courier.line.belief.tables import FRAMES, KINDS, RATES, heard_at
from humble_courier.line.belief.traffic import FAMILIES
from humble_courier.line.rates import FRAME_PRIORS, RATE_PARTS

SYMBOLS = 512  # 256 byte values, each with and without an error flag
HELD_BACK, HELD_BACK_ROOT = 0.6, 2.8  # found by trial; benchmarks/test_settings.py shows claimed against true
# A receiver that is slower than the sender makes of several characters one, in ways that the tables hold only roughly.
FASTER, FASTER_SAYS = 1.05, 64  # ratio of rates; symbols beyond which more say no more
FASTER_RATE, FASTER_REST = 0.5, 0.2  # powers: what is said of the rate, and of the rest
AS_EIGHT = {"8N1", "8N2"}  # receivers of these read alike
EXPECTED = 0.5  # that a device is set as its sheet says: many were set otherwise by somebody (common practice)
INVERTED = 0.03  # lines that are tapped before their level converter are rare (common practice)
# Rates that every adapter has, spread so that each sender lies within the range of one of them.
LISTEN_AT = (300, 600, 1200, 2400, 4800, 9600, 14400, 19200, 38400, 57600, 115200, 230400, 460800)
REFUTED = -12.0  # nats
TRUSTED, PLAIN_TRUSTED = float(np.log(30)), float(np.log(1e5))  # nats, for the settings that somebody listened with
# Fewer may be plain by accident; one damaged byte in thirty is allowed for.
FEWEST_PLAIN, PLAIN_SHARE = 8, 0.97
PLAIN = np.frombuffer(TEXT, np.uint8)
CERTAIN = 0.99  # of a rate, before the next listen is at that rate
LEADING = 24  # states between which the next listen must decide
WORTH_FOLLOWING, MOST_FOLLOWED = 1e-4, 6  # belief in a rate, and how many rates
LIKELY = 1e-4  # less belief is told to nobody
SAME_TO_A_RECEIVER = {"8N2": "8N1", "7E2": "7E1", "7O2": "7O1"}


@dataclass(frozen=True)
class Believed:
    """A setting of the sender with its probability."""

    rate: int
    frame: Frame
    inverted: bool
    probability: float


class Belief:
    """Begins with how often settings are met; every listen changes it."""

    def __init__(self, even: bool = False, expected: Settings | None = None) -> None:
        """`even`: nothing is known beforehand, every rate and frame is as likely as any other. `expected`: what a sheet says
        of the sender, which is right as often as not.
        """
        rates = np.array([1 if even else RATE_PARTS.get(rate, 1) for rate in RATES], np.float64)
        frames = np.array([1.0 if even else FRAME_PRIORS[text] for text in FRAMES])
        families = np.repeat([weight for _, weight in FAMILIES.values()], KINDS)
        parts = (rates, frames, np.array([1 - INVERTED, INVERTED]), families)
        logs = [np.log(part / part.sum()) for part in parts]
        self._logs: NDArray[np.float64] = logs[0][:, None, None, None] + logs[1][:, None, None] + logs[2][:, None] + logs[3]
        if expected is not None and expected.rate in RATES and str(expected.frame) in FRAMES:
            cell = RATES.index(expected.rate), FRAMES.index(str(expected.frame)), 0
            rest = np.exp(np.logaddexp.reduce(self._logs, axis=None)) - np.exp(np.logaddexp.reduce(self._logs[cell]))
            self._logs[cell] += np.log(EXPECTED / (1 - EXPECTED) * rest) - np.logaddexp.reduce(self._logs[cell])

    def listen(self, receiver: Settings, counts: NDArray[np.int64], errors_known: bool = True) -> None:
        """Take in what was received: how often each symbol came (shape 512: the byte, plus 256 with an error).

        Without `errors_known` the counts stand in the first 256, whether an error came with them or not.
        """
        if counts.sum():
            self._take(receiver, self._said(receiver, counts, errors_known), int(counts.sum()))

    def listen_in_order(self, receiver: Settings, symbols: NDArray[np.int64]) -> None:
        """As `listen`, from symbols as they came: where the order can be explained (`follow`), that takes the place of how
        often each came.
        """
        if not len(symbols):
            return
        said, explained = self._said(receiver, np.bincount(symbols, minlength=SYMBOLS), errors_known=True), True
        if str(receiver.frame) in AS_EIGHT:
            sums = np.exp(_summed(self._logs + said) - np.logaddexp.reduce(self._logs + said, axis=None))
            likely = sorted(((p, rate) for p, rate in zip(sums, RATES, strict=True) if p >= WORTH_FOLLOWING), reverse=True)
            followed = follow(symbols, receiver.rate, [rate for _, rate in likely[:MOST_FOLLOWED]], FRAMES)
            more = len(symbols) / min(len(symbols), MOST)  # the counts speak of all, the order of the first ones
            for (rate, frame), log in followed.items():
                cell = RATES.index(rate), FRAMES.index(frame), 0
                by_count = np.logaddexp.reduce(self._logs[cell] + said[cell]) - np.logaddexp.reduce(self._logs[cell])
                said[cell] += weight(len(symbols)) * more * log - by_count
            explained = not followed or explains(followed, receiver.rate, min(len(symbols), MOST))
        self._take(receiver, said, len(symbols), explained)

    def _said(self, receiver: Settings, counts: NDArray[np.int64], errors_known: bool) -> NDArray[np.float64]:
        """What the counts say for each state: the logarithm of their likelihood, held back."""
        logs = heard_at(receiver)
        n = int(counts.sum())
        if not errors_known:
            logs = np.logaddexp(logs[..., :256], logs[..., 256:])
            counts = counts[:256]
            self._trust(receiver, counts)
        seen = np.flatnonzero(counts)
        said: NDArray[np.float64] = weight(n) * (logs[..., seen].astype(np.float64) @ counts[seen].astype(np.float64))
        return said

    def _take(self, receiver: Settings, said: NDArray[np.float64], count: int, explained: bool = True) -> None:
        sums = _summed(self._logs + said)
        faster = np.array(RATES) > FASTER * receiver.rate
        if not explained or np.logaddexp.reduce(sums[faster]) > np.logaddexp.reduce(sums) + np.log(0.5):
            self._take_less(said, min(1.0, np.sqrt(FASTER_SAYS / count)))
        else:
            self._logs += said

    def _take_less(self, said: NDArray[np.float64], share: float) -> None:
        """What was said of the rate counts nearly whole; what was said of frame and traffic at each rate counts less."""
        before = _summed(self._logs)
        rates = before + FASTER_RATE * share * (_summed(self._logs + said) - before)
        within = self._logs + FASTER_REST * share * said
        self._logs = within + (rates - _summed(within))[:, None, None, None]

    def _trust(self, receiver: Settings, counts: NDArray[np.int64]) -> None:
        """Bytes without marks tell little about the frame: that somebody chose these settings speaks for them.

        Plain text that comes out of wrong settings is next to impossible: then that speaks almost for certain.
        """
        n = int(counts.sum())
        plain = n >= FEWEST_PLAIN and counts[PLAIN].sum() >= PLAIN_SHARE * n
        trust = PLAIN_TRUSTED if plain else TRUSTED
        if receiver.rate in RATES:
            for text in FRAMES:
                frame = Frame.parse(text)
                if (frame.data_bits, frame.parity) == (receiver.frame.data_bits, receiver.frame.parity):
                    self._logs[RATES.index(receiver.rate), FRAMES.index(text), 0] += trust

    def refute(self, rate: int, frame: Frame) -> None:
        """A listen with this rate and frame brought errors: it is not the sender's."""
        for text in FRAMES:
            other = Frame.parse(text)
            if (other.data_bits, other.parity) == (frame.data_bits, frame.parity):
                self._logs[RATES.index(rate), FRAMES.index(text)] += REFUTED

    @property
    def _states(self) -> NDArray[np.float64]:
        """Probabilities of rate, frame and polarity."""
        logs = np.logaddexp.reduce(self._logs, axis=-1)
        found: NDArray[np.float64] = np.exp(logs - np.logaddexp.reduce(logs, axis=None))
        return found

    def told(self) -> list[Believed]:
        """All settings that are not next to impossible, the likeliest first.

        A second stop bit is nothing that a receiver sees: such frames are told as one, with one stop bit.
        """
        states = self._states
        joined: dict[tuple[int, str, bool], float] = {}
        for i, j, k in zip(*np.nonzero(states >= LIKELY), strict=True):
            key = (RATES[int(i)], SAME_TO_A_RECEIVER.get(FRAMES[int(j)], FRAMES[int(j)]), bool(k))
            joined[key] = joined.get(key, 0.0) + float(states[i, j, k])
        ordered = sorted(joined.items(), key=lambda item: -item[1])
        return [Believed(rate, Frame.parse(frame), inverted, p) for (rate, frame, inverted), p in ordered]

    def rates(self) -> dict[int, float]:
        """Probability of each rate, whatever the frame."""
        sums = self._states.sum(axis=(1, 2))
        return {rate: float(p) for rate, p in zip(RATES, sums, strict=True)}

    def family(self) -> tuple[str, float]:
        """The kind of traffic that it looks like, with its probability."""
        logs = np.logaddexp.reduce(self._logs, axis=(0, 1, 2))
        shares = np.exp(logs - np.logaddexp.reduce(logs)).reshape(-1, KINDS).sum(axis=1)
        best = int(np.argmax(shares))
        return list(FAMILIES)[best], float(shares[best])

    def next_listen(self) -> Settings:
        """The settings (8N1) to listen with next: at the sender's rate once that is certain, which tells its frame."""
        rates = self.rates()
        best = max(rates, key=lambda rate: rates[rate])
        return Settings(best if rates[best] >= CERTAIN else self.next_receiver())

    def next_receiver(self, symbols: int = 64) -> int:
        """The rate (8N1) to listen with next: where the leading states differ most in what would be received.

        Least sum of sqrt(p q) times the Bhattacharyya coefficient of each pair, for `symbols` received (bound of the
        error of telling two apart; Kailath 1967, from memory).
        """
        states = self._states
        leading = np.argsort(-states, axis=None)[:LEADING]
        where = np.unravel_index(leading, states.shape)
        weights = np.sqrt(states[where])
        power = symbols * weight(symbols)
        best = np.argmax(self._logs[where], axis=-1)

        def left(rate: int) -> float:
            logs = heard_at(Settings(rate))[(*where, best)]
            halves = np.exp(logs / 2)
            halves /= np.linalg.norm(halves, axis=1, keepdims=True)
            overlap = np.clip(halves @ halves.T, 1e-12, 1) ** power
            pairs = overlap * np.outer(weights, weights)
            return float(pairs.sum() - np.trace(pairs))

        return min(LISTEN_AT, key=left)


def _summed(logs: NDArray[np.float64]) -> NDArray[np.float64]:
    """Logarithms of the belief in each rate."""
    found: NDArray[np.float64] = np.logaddexp.reduce(logs, axis=(1, 2, 3))
    return found


def weight(count: int) -> float:
    """The power to which the likelihood of so many symbols is raised."""
    return float(min(HELD_BACK, HELD_BACK_ROOT / np.sqrt(count)))


def in_order(values: NDArray[np.uint8], errors: NDArray[np.bool_]) -> NDArray[np.int64]:
    """Symbols as they came."""
    return values.astype(np.int64) + SYMBOLS // 2 * errors


def counted(values: NDArray[np.uint8], errors: NDArray[np.bool_]) -> NDArray[np.int64]:
    """How often each symbol came."""
    return np.bincount(in_order(values, errors), minlength=SYMBOLS)
