"""Peers that nobody here wrote: pymodbus as server and as client, a bare pyserial loop, the kernel's own pty."""

import os
import pty
import select
import subprocess
import sys
import threading
import tty
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import can
import pynmea2
import pytest
import serial
from pymodbus.client import ModbusSerialClient

from humble_courier.app.talk.instruments import ask
from humble_courier.catalog.load import Catalog
from humble_courier.domain.settings import Settings
from humble_courier.errors import MachineRefused, PeerError
from humble_courier.port.driver import Driver
from humble_courier.port.log import LineLog, read_log
from humble_courier.port.permit import Permit
from humble_courier.port.port import open_port
from humble_courier.port.session import Session
from humble_courier.protocols import j1939
from humble_courier.protocols import modbus_rtu as modbus
from humble_courier.simulator.address import SimAddress
from humble_courier.simulator.pty import PtyServer
from tests.conftest import until

BUS = Settings.parse("19200,8N1")


@contextmanager
def served(device: str, path: Path, **options: str) -> Iterator[str]:
    """A simulated device on a pty, served by a thread."""
    server = PtyServer(SimAddress(device, options), Catalog(), path)
    stop = threading.Event()

    def run() -> None:
        while not stop.is_set():
            server.step()

    thread = threading.Thread(target=run)
    thread.start()
    try:
        yield str(path)
    finally:
        stop.set()
        thread.join()
        server.close()


@contextmanager
def joined_ptys() -> Iterator[tuple[str, str]]:
    """Two ptys whose far ends are joined: what goes into one comes out of the other."""
    ends = [pty.openpty() for _ in range(2)]
    for _, slave in ends:
        tty.setraw(slave)
    stop = threading.Event()

    def copy(source: int, target: int) -> None:
        while not stop.is_set():
            if select.select([source], [], [], 0.02)[0]:
                os.write(target, os.read(source, 1024))

    masters = [master for master, _ in ends]
    threads = [threading.Thread(target=copy, args=pair) for pair in (masters, masters[::-1])]
    for thread in threads:
        thread.start()
    try:
        yield os.ttyname(ends[0][1]), os.ttyname(ends[1][1])
    finally:
        stop.set()
        for thread in threads:
            thread.join()
        for fd in (fd for pair in ends for fd in pair):
            os.close(fd)


@contextmanager
def modbus_server(device: str) -> Iterator[None]:
    """pymodbus' own RTU server, in a process of its own."""
    code = SERVER.replace("DEVICE", repr(device))
    process = subprocess.Popen([sys.executable, "-c", code], stdout=subprocess.PIPE, text=True)
    assert process.stdout is not None
    assert process.stdout.readline().strip() == "ready"
    try:
        yield
    finally:
        process.terminate()
        process.wait(10)
        process.stdout.close()


SERVER = """
import asyncio
from pymodbus.server import ModbusSerialServer
from pymodbus.simulator import DataType, SimData, SimDevice
from pymodbus import FramerType

async def main():
    data = SimData(0, values=[11, 22, 33, 44], datatype=DataType.REGISTERS)
    device = SimDevice(id=7, simdata=[data])
    server = ModbusSerialServer(device, framer=FramerType.RTU, port=DEVICE, baudrate=19200, parity="N")
    await server.listen()
    print("ready", flush=True)
    await asyncio.sleep(60)

asyncio.run(main())
"""


def test_our_session_speaks_with_a_modbus_server_of_pymodbus() -> None:
    with joined_ptys() as (near, far), modbus_server(far):
        port = open_port(near, BUS)
        session = Session(BUS)
        driver = Driver(port, session)
        permit = session.arm("read four registers of unit 7")
        port.write(modbus.read_request(7, 0, 4), permit, 1.0)
        answer = bytearray()
        until(lambda: len(answer.extend(driver.step().data) or answer) >= 13)
        assert modbus.read_answer(bytes(answer)) == modbus.Registers(7, (11, 22, 33, 44))
        port.close()


def test_a_client_of_pymodbus_reads_our_simulated_device(tmp_path: Path) -> None:
    with served("snow-pillow", tmp_path / "bus", power="on") as path:
        client = ModbusSerialClient(path, baudrate=19200, parity="N", timeout=2)
        assert client.connect()
        answer = client.read_holding_registers(0, count=3, device_id=2)
        assert answer.registers == [412, 65496, 1013]
        assert client.read_input_registers(3, count=1, device_id=4).registers == [3]
        assert client.read_holding_registers(90, count=1, device_id=2).exception_code == 2
        assert client.write_register(0, 1, device_id=2).exception_code == 1
        client.close()


def test_a_bare_pyserial_loop_hears_and_asks_our_logger(tmp_path: Path) -> None:
    with served("gauge-logger", tmp_path / "logger", pace="4") as path, serial.Serial(path, 1200, timeout=3) as port:
        assert port.read_until(b"\n") == b"LEVEL LOGGER FW 3.1 READY\r\n"
        port.write(b"LV\r\n")
        assert port.read_until(b"\n") == b"LV +01.284 M OK\r\n"


def test_the_speed_set_on_the_pty_decides_what_is_read(tmp_path: Path) -> None:
    with (
        served("gauge-logger", tmp_path / "logger", pace="4", power="1") as path,
        serial.Serial(path, 2400, timeout=1) as port,
    ):
        garbled = port.read(40)
        assert garbled
        assert b"LEVEL" not in garbled
        port.write(b"ID\r\n")
        assert b"SKW" not in port.read(60)
        port.baudrate = 1200
        port.write(b"\r\nID\r\n")
        assert b"ID SKW-GH-07" in port.read_until(b"0418\r\n")


def test_the_link_is_made_and_taken_away(tmp_path: Path) -> None:
    with served("gauge-logger", tmp_path / "logger"):
        assert (tmp_path / "logger").is_symlink()
    assert not (tmp_path / "logger").exists()
    (tmp_path / "file").write_text("somebody's")
    with pytest.raises(MachineRefused, match="cannot be made"):
        PtyServer(SimAddress("gauge-logger", {}), Catalog(), tmp_path / "file")
    assert (tmp_path / "file").read_text() == "somebody's"


def test_python_can_hears_the_carrier_through_our_adapter(tmp_path: Path) -> None:
    """python-can's slcan opens, sets the rate and listens; what it reads is what our own reader reads."""
    with served("snow-carrier", tmp_path / "carrier", power="on") as path:
        bus = can.Bus(path, interface="slcan", bitrate=250_000, listen_only=True, sleep_after_open=0.1)
        try:
            heard = [message for _ in range(12) if (message := bus.recv(timeout=2.0)) is not None]
        finally:
            bus.shutdown()
    assert {0x0CF00400, 0x18FEF100} <= {message.arbitration_id for message in heard}
    assert all(message.is_extended_id and len(message.data) == 8 for message in heard)
    groups = {j1939.Identifier.of(message.arbitration_id).pgn for message in heard}
    assert 61444 in groups


def test_pynmea2_reads_the_wind_sensor(tmp_path: Path) -> None:
    with (
        served("wind-sensor", tmp_path / "wind", power="on", pace="4") as path,
        serial.Serial(path, 4800, timeout=5) as port,
    ):
        lines = [port.readline().decode() for _ in range(3)]
    parsed = [pynmea2.parse(line.strip(), check=True) for line in lines if line.startswith("$")]
    assert any(one.sentence_type == "MWV" and float(one.wind_speed) == 4.2 for one in parsed)


def test_pyvisa_py_asks_the_bench_meter(tmp_path: Path) -> None:
    """PyVISA-py finds serial resources by their device node, so it is given the pty itself."""
    with served("bench-meter", tmp_path / "meter", power="on", pace="4") as path:
        resource = f"ASRL{Path(path).resolve()}::INSTR"
        log = LineLog(tmp_path / "visa.jsonl")
        assert ask(Permit("a test"), resource, rate=9600, log=log) == "SKERROW WORKSHOP,BENCH METER,1042,2.0"
        said, heard = read_log(log.path.read_bytes()).pieces
        assert (said.who, said.data, heard.who, heard.data[:7]) == ("we", b"*IDN?\n", "they", b"SKERROW")
        assert ask(Permit("a test"), resource, "MEAS:VOLT:DC?", rate=9600) == "+4.99871E+00"
        with pytest.raises(PeerError, match="does not answer"):
            ask(Permit("a test"), resource, "NOBODY?", timeout_ms=300, rate=9600)
