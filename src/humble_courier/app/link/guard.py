"""What may do harm at this moment is asked for twice: the first press is told why, the second, soon after, means it."""

from humble_courier.domain.clock import Clock, SystemClock
from humble_courier.errors import BadInput

ASK_AGAIN_S = 5.0  # for a second press that means it; after that it is a new one


class Guard:
    """Remembers the last press that was held back."""

    def __init__(self, clock: Clock = SystemClock()) -> None:
        self._clock = clock
        self._asked: tuple[str, float] | None = None

    def ask(self, press: str, why: str) -> None:
        """Raises BadInput for a first press; `press` names it as in “Send “ID””; without a `why` every press passes."""
        now = self._clock.now()
        again = self._asked is not None and self._asked[0] == press and now < self._asked[1]
        self._asked = None
        if why and not again:
            self._asked = press, now + ASK_AGAIN_S
            raise BadInput(f"{why}. {press} once more within {ASK_AGAIN_S:g} s to do it all the same")
