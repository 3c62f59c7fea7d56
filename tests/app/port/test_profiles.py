"""The adapter of a place is found again under another number; its label says what matters."""

from pathlib import Path

import pytest

from humble_courier.app.port.label import port_label
from humble_courier.app.port.profiles import (
    Profile,
    keep_latency,
    load_profile,
    network_addresses,
    old_latency,
    profile_of,
    save_profile,
    told_again,
)
from humble_courier.catalog.links import link_from_text
from humble_courier.catalog.load import Catalog
from humble_courier.documents.link import LinkModel, LinkPort
from humble_courier.errors import BadInput
from humble_courier.host.kinds import HostPort, PortKind, UsbDevice
from humble_courier.records.store import Store


def port(number: int, socket: str, serial: str | None = None) -> HostPort:
    return HostPort(f"/dev/ttyUSB{number}", PortKind.USB, "ch341", UsbDevice(socket, "1a86", "7523", serial))


@pytest.mark.parametrize(
    ("was", "now", "address", "sure"),
    [
        (port(0, "1-2", "A"), [port(3, "1-9", "A"), port(0, "1-2", "B")], "/dev/ttyUSB3", True),  # by its serial number
        (port(0, "1-2", "A"), [port(0, "1-2", "B")], None, False),
        (port(0, "1-2"), [port(1, "1-2"), port(0, "1-3")], "/dev/ttyUSB1", True),  # by its socket
        (port(0, "1-2"), [port(1, "1-5")], "/dev/ttyUSB1", False),  # the only one of the kind
        (port(0, "1-2"), [port(1, "1-5"), port(2, "1-6")], None, False),
        (port(0, "1-2", "A"), [port(1, "1-5", "A"), port(2, "1-6", "A")], None, False),  # twins with one number
        (port(0, "1-2", "A"), [port(1, "1-2", "A"), port(2, "1-6", "A")], "/dev/ttyUSB1", True),
        (HostPort("/dev/ttyS0"), [HostPort("/dev/ttyS0")], "/dev/ttyS0", True),
    ],
)
def test_found_again(was: HostPort, now: list[HostPort], address: str | None, sure: bool) -> None:
    found, certain = profile_of(was, "9600,8N1", 0.0).found(now)
    assert (found.address if found else None, certain) == (address, sure or (found is None and certain))
    told = told_again(profile_of(was, "9600,8N1", 0.0), now)
    assert (address or "not plugged in") in told
    assert ("to be sure" in told) == (address is not None and not sure)


def test_kept_with_the_link(tmp_path: Path) -> None:
    store = Store(tmp_path)
    model = LinkModel("link/1", LinkPort(port="dte-de9"), LinkPort(port="dce-de9"), address="socket://192.0.2.7:4001")
    link_id = store.save_link(model, "Weir")
    assert load_profile(store, link_id) is None and told_again(None, []) == ""
    profile = profile_of(port(0, "1-2", "A"), "9600,8N1", 0.0)
    save_profile(store, link_id, profile)
    assert load_profile(store, link_id) == profile
    assert network_addresses(store) == {"socket://192.0.2.7:4001"}
    store.close()


LINK = """
courier: link/1
computer: {port: usb-a}
device: {device: gauge-logger}
chain: [{part: usb-rs232}, {part: crossed-de9-3wire}]
settings: {computer: "1200,7E1"}
address: /dev/ttyUSB0
"""


def test_the_label_says_what_matters(catalog: Catalog) -> None:
    link = link_from_text(LINK, "link", catalog)
    lines = dict(port_label(link, "Gauge house", Profile("/dev/ttyUSB3", "1200,7E1", 0.0, serial="SK0001")).lines)
    assert lines["Settings"] == "1200 7E1" and lines["Port"] == "/dev/ttyUSB3" and lines["Known by"] == "serial SK0001"
    assert "rossed" in lines["Through"]
    bare = link_from_text(
        LINK.replace('settings: {computer: "1200,7E1"}', "").replace("device: gauge-logger", "port: dce-de9"),
        "link",
        catalog,
    )
    with pytest.raises(BadInput, match="no settings"):
        port_label(bare, "", None)


def test_the_latency_before_the_first_change_is_kept_until_it_is_put_back(tmp_path: Path) -> None:
    store, here = Store(tmp_path), port(0, "1-2", "A")
    for old, new, kept in ((16, 4, 16), (4, 1, 16), (1, 16, None)):
        keep_latency(store, here, old, new)
        assert old_latency(store, here) == old_latency(store, port(3, "1-5", "A")) == kept
    store.close()
