"""No bytes may hold a decoder up: four times as many take four times the work, give or take, in steps and not in time."""

import sys
from collections.abc import Callable

import pytest

from humble_courier.app.talk.decoding import decode
from humble_courier.catalog.load import Catalog
from humble_courier.protocols.registry import all_specs
from humble_courier.protocols.spec import ProtocolSpec

CATALOG = Catalog()
SIZE = 1500
FILLS = [bytes((byte,)) for byte in (0x00, 0x0A, 0x10, 0x24, 0x2B, 0x3A, 0x55, 0x80, 0xC0, 0xFF)]


def steps(work: Callable[[], object]) -> int:
    """Calls and lines that Python goes through: the same on every machine, however busy it is."""
    count = 0

    def trace(*_: object) -> Callable[..., object]:
        nonlocal count
        count += 1
        return trace

    before = sys.gettrace()
    sys.settrace(trace)
    try:
        work()
    finally:
        sys.settrace(before)
    return count


@pytest.mark.parametrize("fill", FILLS, ids=lambda fill: fill.hex())
@pytest.mark.parametrize("spec", all_specs().values(), ids=lambda spec: spec.id)
def test_work_grows_with_the_bytes_and_no_faster(spec: ProtocolSpec, fill: bytes) -> None:
    few, many = (steps(lambda n=n: decode(fill * n, spec, CATALOG)) for n in (SIZE, 4 * SIZE))  # type: ignore[misc]
    assert many < 6 * few + 2000


def test_fends_without_end_are_idle_and_the_frame_behind_them_is_read() -> None:
    from humble_courier.protocols.kiss import frame, ui_frame

    events = decode(b"\xc0" * 100_000 + frame(ui_frame("SKW-1", "SKW-2", b"hello")), all_specs()["kiss"], CATALOG).events
    assert [event.kind for event in events if event.kind != "idle"] == ["packet"] and "hello" in str(events[-2].fields)
    assert sum(event.size for event in events) >= 100_000 and len(events) < 20
