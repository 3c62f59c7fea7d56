"""Hours of use in little time: a talker at full speed, ports opened and closed, armed and disarmed; nothing piles up."""

import os
import threading
import time
from pathlib import Path

import pytest

from humble_courier.app.link.open_link import OpenLink
from tests.conftest import until
from tests.trials.conftest import Report
from tests.trials.ptys import far_end
from tests.trials.test_pulls import at

LINE = b"$WIMWV,214.8,R,004.2,M,A*29\r\n"


def in_use() -> tuple[int, int, int]:
    """Threads, open files, and memory in MB that is in use now."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return threading.active_count(), len(os.listdir("/proc/self/fd")), pages * os.sysconf("SC_PAGE_SIZE") >> 20  # noqa: PTH208


@pytest.mark.tries(6, 400)
def test_ports_opened_again_and_again(link: OpenLink, tries: int, report: Report) -> None:
    heard = 0
    with far_end(lambda data: data) as there:
        at(link, there.address)
        for i in range(tries):
            if i == 3:
                before = in_use()
            link.listen()
            link.arm()
            for _ in range(20):
                there.say(LINE * 20)
            link.live.say_bytes(b"again\r\n")
            session = link.live.session
            assert session is not None
            until(lambda session=session: (link.poll(), session.bytes_heard >= 20 * 20 * len(LINE))[1])  # type: ignore[misc]
            heard += session.bytes_heard
            link.stop()
        after = in_use()
    assert (after[0], after[1]) == (before[0], before[1])
    assert after[2] - before[2] < 60
    report("ports opened, listened to, armed, closed", tries, 0)


@pytest.mark.tries(3, 600)
def test_a_talker_that_never_stops(link: OpenLink, tries: int, report: Report) -> None:
    """`tries` in seconds."""
    with far_end() as there:
        at(link, there.address).listen()
        said, end, before = 0, time.monotonic() + tries, in_use()
        while time.monotonic() < end:
            there.say(LINE * 8)
            said += 8
            time.sleep(0.005)
            link.poll()
        session = link.live.session
        assert session is not None
        until(lambda: session.bytes_heard == said * len(LINE))
        assert in_use()[2] - before[2] < 120
        link.stop()
    report("lines of a talker that never stops", said, said - session.bytes_heard // len(LINE))
