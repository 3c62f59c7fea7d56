"""What many tests need."""

import os
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import msgspec
import pytest
from hypothesis import HealthCheck, settings

from humble_courier.app.demo.records import demo_store
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.prepare.sheet_acts import acts
from humble_courier.catalog.load import Catalog
from humble_courier.port.authority import Authority
from humble_courier.records.store import Store
from tests.virtual_time import HUNG_S, VirtualTime, in_force

os.environ["XDG_DATA_HOME"] = tempfile.mkdtemp(prefix="courier-tests-")  # logs of commands do not go where a person's are
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp(prefix="courier-tests-")  # nor do preferences
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")  # the run in a real window says xcb

# A slow or busy machine is no fault: no deadline, and no complaint that examples take long to make.
settings.register_profile("courier", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.register_profile("trials", parent=settings.get_profile("courier"), max_examples=1500)
settings.register_profile("few", parent=settings.get_profile("courier"), max_examples=15)
DRAWS = "trials" if os.environ.get("COURIER_TRIALS") == "long" else os.environ.get("COURIER_DRAWS", "courier")
settings.load_profile(DRAWS)


@pytest.fixture(scope="session")
def read_once() -> Catalog:
    return Catalog()


@pytest.fixture
def catalog(read_once: Catalog) -> Iterator[Catalog]:
    """Read once for all tests; a window that a test opens puts its own sheets beside it, and they go with the test."""
    yield read_once
    read_once.own, read_once.demo = None, False
    read_once.look_again()


@pytest.fixture
def clock() -> Iterator[VirtualTime]:
    """Time that passes only when the test waits, for all that is begun meanwhile."""
    with in_force(VirtualTime()) as made:
        yield made


@pytest.fixture
def store(tmp_path: Path, catalog: Catalog) -> Iterator[Store]:
    """The demo's records."""
    made = demo_store(tmp_path / "demo", catalog, fresh=False)
    yield made
    made.close()


@pytest.fixture
def link(store: Store, catalog: Catalog, clock: VirtualTime) -> Iterator[OpenLink]:
    link_id = store.setting("current-link")
    assert link_id is not None
    made = OpenLink(catalog, store, link_id, authority=Authority(clock))
    quick(made)
    yield made
    made.stop()


@pytest.fixture
def real_link(store: Store, catalog: Catalog) -> Iterator[OpenLink]:
    """The same link by the computer's clock, for a port whose far end is outside (a pty)."""
    link_id = store.setting("current-link")
    assert link_id is not None
    made = OpenLink(catalog, store, link_id)
    quick(made, "?pace=10")
    yield made
    made.stop()


def quick(link: OpenLink, options: str = "") -> None:
    """All acts of its sheet are done, and its simulated port has only these options."""
    for act in link.undone():
        link.tick(act.id, done=True)
    link.change(msgspec.structs.replace(link.document.model, address=f"sim://bench/gauge-logger{options}"))


def untick(link: OpenLink) -> None:
    """As before anything was done at the device."""
    for act in acts(link.document.link.sheet, link.catalog.cautions):
        link.tick(act.id, done=False)


def until(done: Callable[[], object], seconds: float = 60.0) -> None:
    """Wait until something holds; fails when it does not in time: in virtual time where that is in force.

    Elsewhere something outside is waited for (a pty, a process, a socket): then the time only ends a test that hangs.
    """
    if VirtualTime.here is not None:
        clock = VirtualTime.here
        assert clock.go_on(done, clock.now() + seconds), f"it did not happen within {seconds:g} s of its time"
        return
    end = time.monotonic() + HUNG_S
    while not done():
        assert time.monotonic() < end, "it did not happen at all"
        time.sleep(0.005)
