"""`find`, `loopback`, `latency`, `decode` and `simulate --fault` as a shell sees them."""

import json
from pathlib import Path

import pytest

from humble_courier.protocols.nmea import sentence
from tests.cli.test_cli import run
from tests.trials.ptys import far_end


def test_find_by_the_sheet_says_first_what_it_sends() -> None:
    code, out, err = run("find", "sim://bench/mesh-module?power=on", "--device", "mesh-module", "--arm", "--json")
    told = json.loads(out)
    assert code == 0 and "Sends “VER”" in err and "change nothing" in err
    assert told["found"]["settings"] == "38400,8E1" and "M0311" in told["found"]["identity"]
    assert {"address", "settings", "action", "heard", "seconds"} <= set(told["trials"][0])
    assert 0 < told["seconds"] < told["exhaustive_seconds"] and told["ports"][0]["ended"] == "found"


def test_find_sends_nothing_unarmed_and_tells_kinds_of_failure_apart() -> None:
    code, out, _ = run("find", "sim://bench/mesh-module?power=on", "--json")
    told = json.loads(out)
    assert code == 1 and told["found"] is None and told["ports"][0]["ended"] == "stopped"
    assert {trial["action"] for trial in told["trials"]} == {"listen"}
    code, out, _ = run("find", "/dev/ttyNONE")
    assert code == 3 and "absent" in out


@pytest.mark.parametrize(
    ("words", "error"),
    [
        (["find"], "ADDRESSES"),
        (["find", "p", "--device", "tea-pot"], "unknown device"),
        (["find", "p", "--addresses", "a-b"], "expected A-B"),
        (["find", "p", "--worked", "9600"], "expected RATE,FRAME"),
        (["loopback", "sim://bench/loop-back", "--rate", "3"], "rate"),
        (["latency", "sim://bench/loop-back", "--settings", "x"], "expected RATE,FRAME"),
        (["decode", "/nowhere"], "No such file"),
        (["simulate", "gauge-logger", "--fault", "rust"], "unknown fault"),
    ],
)
def test_wrong_input_is_one_line(words: list[str], error: str) -> None:
    code, _, err = run(*words)
    assert code == 2 and error in err


def test_learn_keeps_a_sheet_that_every_command_knows(tmp_path: Path) -> None:
    """A device in no sheet, asked once: then it is listed, simulated, asked by name and proven."""
    data = ("--data", str(tmp_path))
    with far_end(lambda said: b"FLOWMETER 12 v2.0\r\n" if said == b"VER?\r\n" else b"") as far:
        words = ("--settings", "9600,8N1", "--say", "VER?", "--end", "crlf", "--as", "flow-meter")
        code, _, err = run(*data, "learn", far.address, *words)
        assert code == 3 and "--arm" in err and not far.received
        code, out, _ = run(*data, "learn", far.address, *words, "--name", "Flow meter", "--arm", "--json")
    told = json.loads(out)
    assert code == 0 and told["answer"] == "FLOWMETER 12 v2.0" and told["fields"] == {"firmware": "2.0"}
    assert Path(told["sheet"]).is_file()
    code, out, _ = run(*data, "devices")
    assert out.splitlines()[0].startswith("flow-meter")
    code, out, _ = run(*data, "find", "sim://bench/flow-meter?power=on&pace=4", "--device", "flow-meter", "--arm", "--json")
    assert code == 0 and "12" in json.loads(out)["found"]["identity"]
    link = tmp_path / "pump.yaml"
    link.write_text(
        "courier: link/1\ncomputer: {port: usb-a}\ndevice: {device: flow-meter}\n"
        "chain: [{part: usb-rs232}, {part: straight-de9}]\nsettings: {computer: '9600,8N1'}\n"
        "address: sim://bench/flow-meter?power=on&pace=4\n"
    )
    code, out, _ = run(*data, "trace", str(link))
    assert code == 0 and "works" in out
    code, out, _ = run(*data, "prove", str(link), "--arm", "--json")
    told = json.loads(out)
    assert code == 0 and told["proven"] and told["identity"]["firmware"] == "2.0", out


def test_loopback_and_latency() -> None:
    code, out, err = run("loopback", "sim://bench/loop-back", "--rate", "115200", "--long", "2048", "--json", "--arm")
    told = json.loads(out)
    assert code == 0 and told["verdict"] == "proven" and told["errors"] == 0 and told["long"]["code"] == "whole"
    assert told["lines"] == {"rts_cts": True, "dtr_dsr": True, "dtr_dcd": True} and "a plug must be there" in err
    code, out, _ = run(
        "latency", "sim://bench/loop-back?latency=16", "--settings", "115200,8N1", "--times", "9", "--json", "--arm"
    )
    told = json.loads(out)
    assert code == 0 and 15 < told["ms"]["p50"] < 40 and {g["verdict"] for g in told["good_for"]} >= {"good", "will-fail"}
    code, _, err = run("loopback", "/dev/ttyNONE", "--arm")
    assert code == 3 and "there is no port" in err


def test_decode(tmp_path: Path) -> None:
    file = tmp_path / "wind.raw"
    good = sentence("WIMWV,214.8,R,0.1,M,A")
    file.write_bytes(good + good.replace(b"214", b"215"))
    code, out, _ = run("decode", str(file), "--json")
    told = json.loads(out)
    assert code == 0 and told["protocol"] == "nmea-0183" and [e["ok"] for e in told["events"]] == [True, False]
    assert told["events"][1]["offset"] == len(good) and "checksum" in told["events"][1]["why"]
    code, out, _ = run("decode", str(file), "--protocol", "mstp")
    assert code == 1 and "BAD noise" in out
