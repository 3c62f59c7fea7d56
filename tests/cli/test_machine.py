"""The commands about the machine as a shell sees them, on a simulated machine and on this one."""

import json
import re
import subprocess
from pathlib import Path

import pytest

from humble_courier.app.port.drivers import REFERENCE
from humble_courier.simulator.machine import SimulatedMachine
from tests.cli.test_cli import run
from tests.host.conftest import CH341, FTDI

PLAN = """courier: port-numbers/1
adapters: [{id: yard, number: 8}, {id: spare, number: 3}]
programs: [{id: chart, uses: yard, highest: 2}]
reserved: [1]
"""


@pytest.fixture
def root(tmp_path: Path) -> Path:
    machine = SimulatedMachine(tmp_path / "machine", REFERENCE.read_text())
    machine.native()
    machine.plug(FTDI, "1-2", 1)
    machine.plug(CH341, "1-3", 2)
    machine.hold("/dev/ttyUSB1", 77, "reader")
    return machine.root


def test_ports_too_high_and_devices_without_a_port(root: Path) -> None:
    told = json.loads(run("ports", "--sysroot", str(root), "--highest", "1", "--json")[1])
    assert [p["why_not"] for p in told["ports"]] == [[], ["held", "number-too-high"], []]
    assert told["unclaimed"] == []
    blocked = root / "sys/bus/usb/devices/1-7"
    (blocked / "1-7:1.0").mkdir(parents=True)
    for name, value in (("idVendor", "067b"), ("idProduct", "2303")):
        (blocked / name).write_text(value + "\n")
    (idle,) = json.loads(run("ports", "--sysroot", str(root), "--json")[1])["unclaimed"]
    assert (idle["usb"]["path"], idle["why_not"]) == ("1-7", ["no-driver"])


def test_a_label_is_printed(tmp_path: Path) -> None:
    link, pdf = tmp_path / "weir.link.yaml", tmp_path / "label.pdf"
    link.write_text(
        "courier: link/1\ncomputer: {port: dte-de9}\ndevice: {device: gauge-logger}\nchain: [{part: crossed-de9-3wire}]\n"
    )
    assert run("label", str(link), "--pdf", str(pdf))[0] == 0
    assert pdf.read_bytes().startswith(b"%PDF")
    told = {"cable": ("2-3", "Ends"), "socket": ("1200", "SERVICE")}
    for what, wanted in told.items():
        assert run("label", str(link), "--pdf", str(pdf), "--for", what, "--size", "62x29")[0] == 0
        text = subprocess.run(["pdftotext", pdf, "-"], capture_output=True, text=True, check=True).stdout
        assert all(word in text for word in wanted), (what, text)
        pages = subprocess.run(["pdfinfo", pdf], capture_output=True, text=True, check=True).stdout
        width, height = (float(n) for n in re.search(r"Page size: +([\d.]+) x ([\d.]+)", pages).groups())  # type: ignore[union-attr]
        assert (width, height) == pytest.approx((62 / 25.4 * 72, 29 / 25.4 * 72), abs=1)
    for bad in ("62", "5x5", "62x900", "axb"):
        assert run("label", str(link), "--pdf", str(pdf), "--size", bad)[0] == 2


def test_ports(root: Path) -> None:
    code, out, _ = run("ports", "--sysroot", str(root), "--json")
    ports = json.loads(out)["ports"]
    assert code == 0 and [p["device"] for p in ports] == ["ttyUSB0", "ttyUSB1", "ttyS0"]
    assert ports[0]["usb"] | {"manufacturer": None} == ports[0]["usb"]
    assert (ports[0]["driver"], ports[0]["latency_ms"], ports[0]["max_power_ma"], ports[0]["openable"]) == (
        "ftdi_sio",
        16,
        90,
        True,
    )
    assert (ports[1]["why_not"], ports[1]["holder"]) == (["held"], {"pid": 77, "program": "reader"})
    code, out, _ = run("ports", "--sysroot", str(root))
    assert code == 0 and "held by reader" in out
    code, out, _ = run("ports")
    assert code == 0


def test_driver(root: Path) -> None:
    code, out, _ = run("driver", "1a86:7523", "--modules-alias", str(REFERENCE), "--json")
    result = json.loads(out)
    assert (code, result["claimed_by"], result["candidates"], result["in_kernel"]) == (0, "ch341", ["ch341"], True)
    assert {"do", "why"} <= set(result["steps"][0]) and result["other_os"]
    code, out, _ = run("driver", "1234:5678", "--sysroot", str(root), "--json")
    assert (code, json.loads(out)["claimed_by"]) == (1, None)
    code, out, _ = run("driver", "1234:5678", "--interface", "02:02:01", "--sysroot", str(root))
    assert code == 0 and "cdc_acm" in out


def test_kernel_log(root: Path) -> None:
    code, out, _ = run("kernel-log", str(root / "var/log/kern.log"), "--json")
    result = json.loads(out)
    assert code == 0 and [c["code"] for c in result["conclusions"]] == ["healthy", "healthy"]
    assert result["events"][0] == {"line": 1, "time": 1.0, "code": "attached", "usb_path": "1-2", "port": None}
    code, out, _ = run("kernel-log", str(root / "var/log/kern.log"))
    assert "ttyUSB1" in out


def test_name(root: Path) -> None:
    code, out, _ = run("name", "/dev/ttyUSB0", "--as", "weir", "--sysroot", str(root), "--json")
    result = json.loads(out)
    assert (code, result["link"]) == (0, "/dev/serial-weir")
    assert 'ATTRS{serial}=="SK0001"' in result["rule"] and "weir" in result["label"]
    code, out, _ = run("name", "/dev/ttyUSB1", "--by", "socket", "--sysroot", str(root))
    assert code == 0 and 'KERNELS=="1-3"' in out and "not done here" in out


def test_port_numbers(tmp_path: Path) -> None:
    plan = tmp_path / "plan.yaml"
    plan.write_text(PLAN)
    code, out, _ = run("port-numbers", str(plan), "--json")
    result = json.loads(out)
    assert code == 0 and result["changes"] == 1 and result["conflicts"] == []
    assert {a["adapter"]: a["number"] for a in result["assignments"]} == {"yard": 2, "spare": 3}
    assert "accepts ports up to 2" in result["steps"][-1]["why"]
    plan.write_text(PLAN.replace("reserved: [1]", "reserved: [1, 2]"))
    code, out, _ = run("port-numbers", str(plan))
    assert code == 1 and "too few" in out


@pytest.mark.parametrize(
    ("words", "code", "told"),
    [
        (["driver", "0403"], 2, "expected vendor and product"),
        (["driver", "0403:6001", "--interface", "2:2"], 2, "--interface 2:2: expected class"),
        (["driver", "0403:6001", "--modules-alias", "/nowhere/x"], 3, "Name another file"),
        (["kernel-log", "/nowhere/x"], 2, "No such file"),
        (["kernel-log", "/dev/null"], 2, "nothing to read"),
        (["name", "/dev/ttyUSB99"], 3, "is not there"),
        (["ports", "--sysroot", "/nowhere"], 2, "no such folder"),
    ],
)
def test_what_is_wrong_is_one_line(words: list[str], code: int, told: str) -> None:
    found, _, err = run(*words)
    assert found == code and told in err and len(err.strip().splitlines()) == 1


def test_a_wrong_plan_says_where(tmp_path: Path) -> None:
    plan = tmp_path / "plan.yaml"
    for old, new, told in (
        ("uses: yard", "uses: barn", "plan.yaml:3: uses: no adapter is called “barn”"),
        ("id: spare", "id: yard", "plan.yaml:2: adapter “yard” stands twice"),
        ("number: 8", "number: 0", "plan.yaml:2"),
    ):
        plan.write_text(PLAN.replace(old, new))
        code, _, err = run("port-numbers", str(plan))
        assert code == 2 and told in err, err
