"""No bytes may hold a decoder up: four times as many take four times the work, give or take, in steps and not in time."""

import sys
from collections.abc import Callable

import pytest
from hypothesis import given
from hypothesis import strategies as st

from humble_courier.app.talk.decoding import decode
from humble_courier.catalog.load import Catalog
from humble_courier.protocols import iso14230, j1708, modbus_rtu
from humble_courier.protocols.framer import Cut, Framer
from humble_courier.protocols.iso14230 import Iso14230
from humble_courier.protocols.j1708 import J1708
from humble_courier.protocols.places import Places
from humble_courier.protocols.registry import all_specs
from humble_courier.protocols.spec import ProtocolSpec
from tests.trials.streams import FILLS, attacks, mutated

CATALOG = Catalog()
SIZE = 1500
PIECES = st.one_of(st.binary(max_size=40), st.integers(0, 10_000), st.sampled_from(FILLS).map(lambda fill: 300 * fill))


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


@pytest.mark.parametrize("spec", all_specs().values(), ids=lambda spec: spec.id)
def test_work_grows_with_the_bytes_and_no_faster(spec: ProtocolSpec) -> None:
    for (what, short), (_, long) in zip(attacks(spec.id, SIZE), attacks(spec.id, 4 * SIZE), strict=True):
        few, many = (steps(lambda data=data: decode(data, spec, CATALOG)) for data in (short, long))  # type: ignore[misc]
        assert many < 6 * few + 2000, what


@pytest.mark.parametrize("cut, reach, places", [
    (modbus_rtu.rtu, modbus_rtu.LONGEST_FRAME, modbus_rtu.places), (J1708({}, {}).cut, j1708.LONGEST, j1708.places),
    (Iso14230({}).cut, iso14230.LONGEST, iso14230.places),
], ids=["modbus-rtu", "j1708", "iso14230"])  # fmt: skip
@given(told=st.lists(PIECES, max_size=8), pieces=st.integers(1, 500))
def test_bytes_that_are_passed_over_are_none_that_begin_a_message(
    cut: Cut, reach: int, places: Callable[[bytes], Places], told: list[bytes | int], pieces: int
) -> None:
    name = {modbus_rtu.places: "modbus-rtu", j1708.places: "j1708", iso14230.places: "iso14230"}[places]
    data = b"".join(one if isinstance(one, bytes) else mutated(name, 60, one) for one in told)
    found = []
    for framer in (Framer(cut), Framer(cut, reach, places)):
        events = [event for at in range(0, len(data), pieces) for event in framer.feed(data[at : at + pieces])]
        found.append([event for event in [*events, *framer.end()] if event.kind != "noise"])
    assert found[0] == found[1]


def test_fends_without_end_are_idle_and_the_frame_behind_them_is_read() -> None:
    from humble_courier.protocols.kiss import frame, ui_frame

    events = decode(b"\xc0" * 100_000 + frame(ui_frame("SKW-1", "SKW-2", b"hello")), all_specs()["kiss"], CATALOG).events
    assert [event.kind for event in events if event.kind != "idle"] == ["packet"] and "hello" in str(events[-2].fields)
    assert sum(event.size for event in events) >= 100_000 and len(events) < 20
