"""A simulated machine with the plugs of the valley."""

from pathlib import Path

import pytest

from humble_courier.app.port.drivers import REFERENCE
from humble_courier.simulator.machine import Plug, SimulatedMachine, Trouble

FTDI = Plug("0403", "6001", "ftdi_sio", "ftdi_sio", serial="SK0001", power_ma=90)
CH341 = Plug("1a86", "7523", "ch341", "ch341-uart", power_ma=98)  # reports no serial number
CP210X = Plug("10c4", "ea60", "cp210x", "cp210x", serial="SK0002")
ACM = Plug("03eb", "0030", "cdc_acm", "cdc_acm", serial="SK0003")
TROUBLES = {t: Plug("1a86", "7523", "ch341", "ch341-uart", trouble=t) for t in Trouble}


@pytest.fixture
def machine(tmp_path: Path) -> SimulatedMachine:
    return SimulatedMachine(tmp_path, REFERENCE.read_text())
