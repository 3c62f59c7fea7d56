"""`rate`, `timing`, `switches`, `bus`, `site`, `io`, `ip` as a shell sees them."""

import json
import subprocess
from pathlib import Path

import pytest

from tests.cli.test_cli import run

BUS = """courier: bus/1
protocol: modbus-rtu
settings: "19200,8E1"
members:
  - {name: pillow-1, address: 3}
  - {name: pillow-2, switches: [1, 1, 0, 0, 0, 0, 0, 0], settings: "19200,8E1"}
  - {name: pillow-3}
"""
IO = """courier: io/1
radix: 16
modules: [{name: in-a, points: 32}, {name: in-b, points: 16, start: "40"}, {name: in-c, points: 4}]
"""


def told(code: int, *words: str) -> dict[str, object]:
    got, out, _ = run(*words, "--json")
    assert got == code, out
    document = json.loads(out)
    assert isinstance(document, dict)
    return document


def test_rate() -> None:
    found = told(0, "rate", "--clock", "1843200", "--rate", "9600")
    assert (found["divisor"], found["actual"], found["ok"]) == (12, 9600.0, True)
    found = told(1, "rate", "--clock", "16000000", "--rate", "115200")
    assert found["divisor"] == 9 and found["error_percent"] == pytest.approx(-3.549, abs=1e-3)
    assert told(0, "rate", "--clock", "3000000", "--oversample", "1", "--rate", "115200", "--step", "1/8")["divisor"] == 26.0
    assert run("rate", "--clock", "1e6", "--rate", "9600", "--step", "x")[0] == 2


def test_timing() -> None:
    found = told(
        1, "timing", "--settings", "19200,8E1", "--bytes", "16", "--turnaround", "5", "--latency", "16", "--timeout", "20"
    )
    assert found["fits"] is False and found["round_trip_ms"] == pytest.approx(30.1667, abs=1e-3)
    flow = told(1, "timing", "--settings", "9600,8N1", "--bytes", "4096", "--takes", "300", "--buffer", "256")["flow"]
    assert isinstance(flow, dict) and flow["lost"] > 2000


def test_switches() -> None:
    assert told(0, "switches", "--address", "5", "--width", "4")["switches"] == [1, 0, 1, 0]
    found = told(0, "switches", "--read", "on off on off", "--msb-first", "--offset", "1")
    assert found["reads_back"] == 11
    for words in (["--address", "16", "--width", "4"], ["--address", "1"], [], ["--read", "1x0"]):
        code, _, err = run("switches", *words)
        assert code == 2 and len(err.strip().splitlines()) == 1


def test_bus(tmp_path: Path) -> None:
    plan = tmp_path / "bus.yaml"
    plan.write_text(BUS)
    found = told(1, "bus", str(plan))
    assert found["assignments"] == [
        {"name": "pillow-1", "address": 3}, {"name": "pillow-2", "address": 3}, {"name": "pillow-3", "address": 1},
    ]  # fmt: skip
    assert found["suggest"] == [{"name": "pillow-2", "address": 2, "switches": [0, 1, 0, 0, 0, 0, 0, 0]}]
    code, out, _ = run("bus", str(plan))
    assert code == 1 and "answer at once" in out and "take 2, switches 01000000" in out


@pytest.mark.parametrize(
    ("old", "new", "line", "said"),
    [
        ("modbus-rtu", "modbus-rtx", 2, "did you mean modbus-rtu"),
        ('"19200,8E1"', '"19200,8X1"', 3, "8X1"),
        ("[1, 1, 0, 0, 0, 0, 0, 0]", "[1, 2]", 6, "switches"),
        ("pillow-3", "pillow-1", 7, "stands twice"),
        ("pillow-2,", "pillow-2, address: 4,", 6, "contradict"),
        ("switches: [1, 1, 0, 0, 0, 0, 0, 0]", "switches: [1], bank: {width: 8}", 6, "1 switches seen, the bank has 8"),
    ],
)
def test_a_wrong_bus_plan_is_told_with_its_line(tmp_path: Path, old: str, new: str, line: int, said: str) -> None:
    plan = tmp_path / "bus.yaml"
    plan.write_text(BUS.replace(old, new, 1))
    code, _, err = run("bus", str(plan))
    assert code == 2 and f":{line}:" in err and said in err


def test_io(tmp_path: Path) -> None:
    plan = tmp_path / "io.yaml"
    plan.write_text(IO)
    found = told(0, "io", str(plan))
    assert found["assignments"] == [
        {"name": "in-a", "start": "0", "end": "1F"}, {"name": "in-b", "start": "40", "end": "4F"},
        {"name": "in-c", "start": "50", "end": "53"},
    ]  # fmt: skip
    assert found["suggest"] == {"next_start": "54"}
    plan.write_text(IO.replace('"40"', '"1G"'))
    code, _, err = run("io", str(plan))
    assert code == 2 and "digits of radix 16" in err and ":3:" in err
    two = "\n".join(
        f"- {{name: {n}, points: 8, {rest}}}"
        for n, rest in (("in", "letter: X"), ("out", "letter: Y, terminal: 0"), ("more", "letter: X"))
    )
    plan.write_text(f"courier: io/1\nradix: 8\nmodules:\n{two}\n")
    found = told(0, "io", str(plan))
    assert found["printed"] == {"in": "X0 to X7", "out": "Y0 to Y7", "more": "X10 to X17"}
    assert found["next_starts"] == {"X": "20", "Y": "10"}
    for asked, said in (
        (("--point", "X12"), "X12 is terminal 3 of more"),
        (("--terminal", "out:0"), "terminal 0 of out is Y0"),
    ):
        assert run("io", str(plan), *asked)[1].strip() == said
    code, _, err = run("io", str(plan), "--terminal", "in:9")
    assert code == 2 and "terminals 1 to 8, no 9" in err
    plan.write_text(IO.replace('"40"', '"1F"'))
    assert [c["code"] for c in told(1, "io", str(plan))["conflicts"]] == ["overlap"]  # type: ignore[attr-defined]


def test_ip() -> None:
    found = told(1, "ip", "--device", "192.168.1.10/24", "--computer", "10.0.0.5/24")
    assert found["suggest"] == "192.168.1.254/24"
    assert told(0, "ip", "--device", "192.168.1.10/24", "--computer", "192.168.1.11/24")["conflicts"] == []
    assert run("ip", "--device", "192.168.1.10", "--computer", "x")[0] == 2


def test_what_a_factory_address_collides_with_rotary_switches_and_loads() -> None:
    ends = ("ip", "--device", "192.168.1.1/24", "--computer", "192.168.1.9/24")
    assert told(0, *ends)["conflicts"] == []
    assert told(1, *ends, "--site", "192.168.1.1/24")["conflicts"][0]["where"] == "192.168.1.1"  # type: ignore[index]
    assert told(0, "switches", "--address", "47", "--rotary", "2")["rotary"] == ["2", "F"]
    found = told(0, "timing", "--settings", "4800,8N1", "--bytes", "80", "--per-second", "3", "--devices", "6")
    assert found["load_percent"] == pytest.approx(50) and found["poll_cycle_s"] > 1  # type: ignore[operator]
    assert run("timing", "--settings", "4800,8N1", "--bytes", "80", "--per-second", "7")[0] == 1


SITE = """courier: site/1
protocol: mstp
settings: 38400 8N1
bank: {width: 7}
per_segment: 30
reserve: [0]
instances: {from: 2000, to: 2999}
members:
""" + "".join(f"- {{name: =unit {n}}}\n" for n in range(300))


def test_a_site_of_300_units(tmp_path: Path) -> None:
    plan, table, paper = tmp_path / "site.yaml", tmp_path / "site.csv", tmp_path / "site.pdf"
    plan.write_text(SITE)
    found = told(0, "site", str(plan), "--csv", str(table), "--pdf", str(paper))
    assert found["ok"] and [len(segment["members"]) for segment in found["segments"]] == [30] * 10
    for segment in found["segments"]:
        assert [m["address"] for m in segment["members"]] == list(range(1, 31))
        assert all(sum(bit << n for n, bit in enumerate(m["switches"])) == m["address"] for m in segment["members"])
    numbers = [m["instance"] for segment in found["segments"] for m in segment["members"]]
    assert numbers == list(range(2000, 2300))
    rows = table.read_bytes().decode().split("\r\n")
    assert rows[1] == "segment 1,1,'=unit 0,1,1000000,2000,38400 8N1" and len(rows) == 302
    text = subprocess.run(["pdftotext", "-layout", str(paper), "-"], capture_output=True, check=True).stdout.decode()
    assert "segment 10: 30 devices" in text and "instance 2299" in text
    code, out, _ = run("site", str(plan))
    assert code == 0 and "segment 10: 30 devices" in out


@pytest.mark.parametrize(
    ("old", "new", "said"),
    [
        ("site/1", "bus/1", "begins with courier: site/1"),
        ("to: 2999", "to: 1999", "the first is after the last"),
        ("to: 2999", "to: 4194303", "up to 4194302"),
        ("=unit 7}", "=unit 8}", "stands twice"),
        ("per_segment: 30", "per_segment: 0", "per_segment"),
    ],
)
def test_a_wrong_site_is_told(tmp_path: Path, old: str, new: str, said: str) -> None:
    (tmp_path / "site.yaml").write_text(SITE.replace(old, new, 1))
    code, _, err = run("site", str(tmp_path / "site.yaml"))
    assert code == 2 and said in err and "Traceback" not in err
