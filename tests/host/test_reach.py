"""Connections that are tried, against real sockets of this computer."""

import socket

import pytest

from humble_courier.host.reach import Reach, knock


@pytest.fixture
def listening() -> "socket.socket":
    with socket.create_server(("127.0.0.1", 0)) as server:
        yield server  # type: ignore[misc]


def free_port() -> int:
    with socket.create_server(("127.0.0.1", 0)) as server:
        return int(server.getsockname()[1])


def test_an_open_port_ends_the_try_and_nothing_is_said_over_it(listening: socket.socket) -> None:
    closed, port = free_port(), listening.getsockname()[1]
    tried = knock("127.0.0.1", [closed, port, closed])
    assert [(one.port, one.reach) for one in tried] == [(closed, Reach.REFUSED), (port, Reach.OPEN)]
    there, _ = listening.accept()
    there.settimeout(2)
    assert there.recv(10) == b"" and tried[1].ms < 1500
    there.close()


def test_where_no_way_leads_the_try_ends_at_once() -> None:
    """This machine has no route for documentation addresses (RFC 5737), or nobody answers there."""
    tried = knock("192.0.2.77", [80], 0.2)
    assert tried[-1].reach in (Reach.NO_WAY, Reach.SILENT) and len(tried) == 1
