"""Where the logs of lines lie: one file for each opening, beside the records."""

import time
from pathlib import Path

from humble_courier.domain.clock import Clock, SystemClock
from humble_courier.port.log import LineLog as LineLog


def new_log(records: Path, what: str, clock: Clock = SystemClock()) -> LineLog:
    """A log for what begins now, beside the records; `what` becomes part of its name. It is made when the port is open."""
    at = time.strftime("%Y-%m-%d-%H%M%S", time.localtime(clock.wall()))
    return LineLog(records / "logs" / f"{at}-{what}.jsonl", clock)
