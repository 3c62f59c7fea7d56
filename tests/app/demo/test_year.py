"""The valley is alive: all thirteen links, each with a chain that works, and a year of proofs and failures."""

from pathlib import Path

from humble_courier.app.demo.records import demo_store
from humble_courier.app.demo.year import valley
from humble_courier.app.wire.tracing import trace_link
from humble_courier.catalog.links import resolve_link
from humble_courier.catalog.load import DEMO, Catalog


def test_the_demo_holds_each_device_of_the_valley(tmp_path: Path) -> None:
    catalog = Catalog(demo=True)
    store = demo_store(tmp_path, catalog, fresh=True)
    devices = {}
    for link_id, name in store.links():
        model = store.link(link_id)
        assert model is not None and model.device.device is not None, name
        assert trace_link(resolve_link(model, catalog), catalog).verdict.usable, name
        devices[model.device.device] = link_id
    assert set(devices) == {path.stem for path in DEMO.glob("*.yaml")}
    told = {one.device: one for one in valley()}
    assert all(len(store.proofs(devices[id_])) == sum(o.kind is not None for o in one.year) for id_, one in told.items())
    assert sum(bool(o.failed) for one in told.values() for o in one.year) >= 5
    for one in told.values():
        times = [o.seconds for o in one.year]
        assert times == sorted(times) and any(o.kind is not None for o in one.year)
    store.close()
