"""Is a device at the network cable: what is tried, what came of it, and its address out of what it said."""

import socket

import pytest

from humble_courier.app.settings.reaching import USUAL_PORTS, heard, lines_to_set, ports_of, says, tried
from humble_courier.catalog.load import Catalog
from humble_courier.domain.utterance import Utterance, Who
from humble_courier.errors import BadInput

CATALOG = Catalog()
SHEET = CATALOG.device("data-concentrator")


def test_a_port_that_is_open_is_named_and_the_subnet_is_judged_before() -> None:
    with socket.create_server(("127.0.0.1", 0)) as server:
        port = server.getsockname()[1]
        told, opened = tried("127.0.0.1/8", "127.0.0.9/8", [port])
        assert opened == port and told[0].good and "somebody listens" in told[0].value
    told, opened = tried("127.0.0.1/8", "127.0.0.9/8", [port])
    assert opened is None and told[0].good and "is there, and nobody listens" in told[0].value
    with pytest.raises(BadInput, match="does not reach"):
        tried("192.168.4.1/24", "192.0.2.20/24", [port])


def test_what_is_tried_is_said_first() -> None:
    assert ports_of(SHEET) == (23,) and ports_of(None) == USUAL_PORTS
    assert "192.168.4.1 at 23" in says("192.168.4.1/24", (23,)) and "nothing is said" in says("", (23,))


def test_the_address_is_taken_out_of_what_the_device_says() -> None:
    lines = [(Who.WE, b"ip 10.0.0.1/8\r"), (Who.THEY, b"ip 192.168.4.1/24\r\n"), (Who.THEY, b"stored\r\n")]
    said = [Utterance(who, 1.0, 1.1, bytearray(line)) for who, line in lines]
    assert heard(said, SHEET) == "192.168.4.1/24" and heard(said, None) == "" and heard(said[:1], SHEET) == ""
    assert lines_to_set(SHEET, "192.168.4.7/24") == ["configure", "ip 192.168.4.7/24", "store"]
    assert lines_to_set(SHEET, "") == [] == lines_to_set(None, "192.168.4.7/24")
    with pytest.raises(BadInput, match="size of its network"):
        lines_to_set(SHEET, "192.168.4.7")
