"""One Ctrl+C ends a command: nothing leaves any more, what came so far is printed, and the exit code says so.

Theory of operation. The first signal is handed to the one authority over sending, which takes back every permit and asks
everybody at a port to end; the command goes on to its end as if its time were over, and prints. A command that does not
come to its end in time, as it waits for a port that does not open, is broken off; so is one at the second signal.
"""

import signal
from types import FrameType, TracebackType

from humble_courier.app.port.sending import Authority

SIGNALS = (signal.SIGINT, signal.SIGTERM, signal.SIGHUP)
BREAK_OFF_S = 0.4  # after the first signal: the whole must be over within half a second
EXIT_CODE = 130


class Interrupt:
    """In force while it is entered. `heard`: whether a signal has come."""

    def __init__(self, authority: Authority) -> None:
        self._authority = authority
        self.heard = False

    def __enter__(self) -> "Interrupt":
        for one in SIGNALS:
            # A shell has commands behind & ignore SIGINT: what sends heeds it all the same. Who says nohup asks for that.
            if one is not signal.SIGHUP or signal.getsignal(one) is not signal.SIG_IGN:
                signal.signal(one, self._stop)
        signal.signal(signal.SIGALRM, _break_off)
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        signal.setitimer(signal.ITIMER_REAL, 0.0)

    def _stop(self, number: int, _frame: FrameType | None) -> None:
        if self.heard:
            raise KeyboardInterrupt
        self.heard = True
        self._authority.stop_all(f"interrupted by {signal.Signals(number).name}", for_good=True)
        signal.setitimer(signal.ITIMER_REAL, BREAK_OFF_S)


def _break_off(_number: int, _frame: FrameType | None) -> None:
    raise KeyboardInterrupt
