"""What the machine shows of a port that does not open: the lines are those that the kernel prints (its sources, 6.1)."""

from pathlib import Path

import pytest

from humble_courier.app.port.machine_evidence import CHECKS, OUTCOMES, machine_evidence
from humble_courier.catalog.load import Catalog
from humble_courier.errors import MachineRefused
from humble_courier.host.kernel_log import _NEXT

LOGS = {
    "usb 1-2: device descriptor read/64, error -71\nusb 1-2: unable to enumerate USB device": "cable",
    "usb 1-2: new full-speed USB device number 5 using xhci_hcd\nusb 1-2: rejected 1 configuration due to insufficient "
    "available bus power": "power",
    "usb 1-2: new full-speed USB device number 5 using xhci_hcd\n"
    "usb 1-2: New USB device found, idVendor=0403, idProduct=6001, bcdDevice= 6.00": "no-driver",
}


@pytest.mark.parametrize("log", LOGS)
def test_the_log_is_an_outcome(tmp_path: Path, catalog: Catalog, log: str) -> None:
    found = machine_evidence("/dev/ttyUSB7", catalog, tmp_path, lambda: log)
    assert found == {"list-ports": "absent", "kernel-log": LOGS[log]}


def test_a_log_that_may_not_be_read_says_nothing(tmp_path: Path, catalog: Catalog) -> None:
    def refuses() -> str:
        raise MachineRefused("the kernel log may not be read by this user", "ask")

    assert machine_evidence("/dev/ttyUSB7", catalog, tmp_path, refuses) == {"list-ports": "absent"}
    assert machine_evidence("/dev/ttyUSB7", catalog, tmp_path, lambda: "") == {"list-ports": "absent"}


def test_each_conclusion_has_an_outcome_that_the_check_knows(catalog: Catalog) -> None:
    assert set(OUTCOMES) == set(_NEXT) and set(CHECKS) <= set(catalog.checks)
    assert set(OUTCOMES.values()) <= set(catalog.checks["kernel-log"].outcomes)
