"""Beginning a link with a connector: what has such a one, and how the computer gets there."""

import pytest

from humble_courier.app.link.beginning import bare_link, candidates, faces, finished, simulated_port, ways
from humble_courier.catalog.load import Catalog
from humble_courier.documents.kit import KitItem, KitModel
from humble_courier.domain.facts import State
from humble_courier.wiring.findings import Verdict

CATALOG = Catalog(demo=True)
EMPTY = KitModel(courier="kit/1", items=[])


def test_each_device_is_found_by_its_connector_and_half() -> None:
    known = {face.group: face for face in faces(CATALOG)}
    halves = {CATALOG.device(id_).port.connector.gender for id_ in CATALOG.device_ids()}
    found = {
        (group, half): {one.id for one in candidates(CATALOG, face, half, "")}
        for group, face in known.items() for half in halves
    }  # fmt: skip
    for id_ in CATALOG.device_ids():
        half = CATALOG.device(id_).port.connector.gender
        assert len([group for group in known if id_ in found[group, half]]) == 1, id_
    order = [one.state for one in candidates(CATALOG, known["D-9"], "socket", "")]
    assert order == sorted(order, key=[State.PROVEN, State.ASSUMED, State.UNKNOWN].index)
    assert [one.id for one in candidates(CATALOG, None, None, "tracked snow")] == ["snow-carrier"]


def test_each_port_of_a_device_can_be_begun_with() -> None:
    """The bus plug of the bridge controller is another link than its service port, with settings of its own."""
    face = next(face for face in faces(CATALOG) if face.group == "terminal")
    (bus,) = candidates(CATALOG, face, None, "bus plug")
    assert bus.name == "Footbridge load controller: Bus plug"
    model = bare_link(CATALOG, bus.id)
    assert (model.device.device, model.device.socket) == ("bridge-controller", "bus")
    assert model.settings.computer == "38400,8E1" and simulated_port(bus.id).endswith("?socket=bus")
    assert ways(CATALOG, EMPTY, bus.id)[0].verdict.usable


@pytest.mark.parametrize("device", [*CATALOG.device_ids(), "dce-de9", "rs485-2w", "j1708-6"])
def test_there_is_a_way_to_each_device_and_none_does_harm(device: str) -> None:
    found = ways(CATALOG, EMPTY, device)
    assert found and found[0].verdict.usable
    assert all(one.verdict is not Verdict.MAY_DAMAGE for one in found)


def test_what_the_kit_has_comes_first_and_a_lead_to_make_before_what_must_be_bought() -> None:
    kit = KitModel(courier="kit/1", items=[KitItem(part="usb-rs232"), KitItem(part="straight-de9", count=0)])
    whence = [one.whence.value for one in ways(CATALOG, kit, "df1-controller")]
    assert whence[:2] == ["to make", "to buy"]
    way = ways(CATALOG, kit, "text-instrument-dce")[0]
    assert way.whence.value == "in the kit" and [part.part for part in way.model.chain] == ["usb-rs232"]
    link = finished(way.model, "/dev/ttyUSB0", "1200,7E1")
    assert link.address == "/dev/ttyUSB0" and link.settings.computer == "1200,7E1"
