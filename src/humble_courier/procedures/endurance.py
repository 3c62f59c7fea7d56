"""A long transfer, as a test before the real upload: through a loop-back plug, and where it breaks."""

from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np

from humble_courier.domain.settings import Settings
from humble_courier.domain.text import XOFF, XON
from humble_courier.errors import CourierError
from humble_courier.procedures.loopback import wrongs
from humble_courier.procedures.steps import Outcome, Step

PIECE = 1024  # larger than the buffers of adapters, so that what overruns them shows
WAIT_S = 0.8  # a loaded computer and its adapter need a fraction of that (common practice)


class Transfer(StrEnum):
    """How a long transfer went."""

    REFUSED = "refused"
    WHOLE = "whole"
    NOTHING = "nothing"
    CUT_AT = "cut-at"
    LOST_SOME = "lost-some"


@dataclass
class Endurance:
    """A procedure: pieces of bytes that no short pattern repeats; notes for each how far it came back."""

    address: str
    settings: Settings
    size: int = 32_768
    piece: int = PIECE
    sent: int = 0
    wrong: list[tuple[int, int, int]] = field(default_factory=list)  # piece, first wrong place in it, bytes that came
    refused: CourierError | None = None

    def next(self) -> Step | None:
        """The next piece."""
        if self.refused or self.sent >= self.size:
            return None
        data = self._data()
        seconds = len(data) * self.settings.character_s + WAIT_S
        return Step(self.address, self.settings, data, seconds, enough=len(data), quiet_s=WAIT_S, action="long transfer")

    def _data(self) -> bytes:
        count = min(self.piece, self.size - self.sent)
        made = np.random.default_rng(self.sent).integers(0, 256, count, np.uint8)
        if self.settings.frame.data_bits == 7:
            made &= 0x7F
        made[(made == XON) | (made == XOFF)] = 0x20  # not what stops and starts senders
        return made.tobytes()

    def done(self, step: Step, outcome: Outcome) -> None:
        """Compare a piece with what came back of it."""
        if outcome.refusal is not None:
            self.refused = outcome.refusal
            return
        bad = wrongs(step.say, outcome.data)
        if bad:
            self.wrong.append((self.sent // self.piece, bad[0], len(outcome.data)))
        self.sent += len(step.say)

    @property
    def verdict(self) -> tuple[Transfer, str]:
        """How it went, and what that means."""
        pieces = -(-self.sent // self.piece) or 1
        if self.refused:
            return Transfer.REFUSED, f"after {self.sent} of {self.size} bytes: {self.refused}"
        if not self.wrong:
            return Transfer.WHOLE, f"all {self.sent} bytes came back as they were sent"
        if all(came == 0 for _, _, came in self.wrong) and len(self.wrong) == pieces:
            return Transfer.NOTHING, "nothing came back: no plug, or a conductor is open"
        places = {first for _, first, came in self.wrong if came == first}
        if len(places) == 1 and len(self.wrong) * 2 >= pieces:
            at = places.pop()
            return Transfer.CUT_AT, (
                f"each piece breaks off after {at} bytes: the adapter or its driver drops the rest; "
                f"write pieces of at most {at} bytes, or take another adapter"
            )
        return Transfer.LOST_SOME, (
            f"{len(self.wrong)} of {pieces} pieces came back damaged, the first at byte "
            f"{self.wrong[0][0] * self.piece + self.wrong[0][1]}: flow control, a lower rate, or a shorter cable"
        )
