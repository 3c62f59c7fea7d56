"""How long the trials are, and what they found: short with the other tests, long with `./courier trials`."""

import os
from collections import defaultdict
from collections.abc import Callable

import pytest

from humble_courier.app.link.open_link import OpenLink

LONG = os.environ.get("COURIER_TRIALS") == "long"
Report = Callable[[str, int, int], None]


@pytest.fixture
def tries(request: pytest.FixtureRequest) -> int:
    """How often something is tried: `@pytest.mark.tries(short, long)`."""
    mark = request.node.get_closest_marker("tries")
    assert mark is not None
    return mark.args[1] if LONG else mark.args[0]


@pytest.fixture
def link(real_link: OpenLink) -> OpenLink:
    """Trials go by the computer's clock, as a day does."""
    return real_link


@pytest.fixture
def report(record_property: Callable[[str, object], None]) -> Report:
    """Note a figure for the table: what was tried, how often, and how much was lost."""
    return lambda what, count, lost: record_property("trial", (what, count, lost))


def pytest_terminal_summary(terminalreporter: pytest.TerminalReporter) -> None:
    """The table of `./courier trials`."""
    table: dict[str, list[int]] = defaultdict(lambda: [0, 0])
    for told in terminalreporter.getreports("passed") + terminalreporter.getreports("failed"):
        for name, value in told.user_properties:
            if name == "trial":
                what, count, lost = value
                table[what] = [table[what][0] + count, table[what][1] + lost]
    if LONG:
        for what, (count, lost) in sorted(table.items()):
            terminalreporter.write_line(f"| {what} | {count} | {lost} |")
