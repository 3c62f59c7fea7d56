"""`exchanges`: the log of any day, judged."""

import json
from pathlib import Path

from humble_courier.domain.clock import ManualClock
from humble_courier.domain.received import Chunk
from humble_courier.port.log import LineLog
from tests.cli.test_cli import run


def test_a_log_is_judged_and_tells_what_it_is_worth(tmp_path: Path) -> None:
    log, t = LineLog(tmp_path / "day.jsonl", ManualClock()), 1_700_000_000.0
    log.begin("/dev/ttyUSB0", "9600,8N1")
    for i, (said, came) in enumerate([(b"VER?\r", b"ERROR\r\n"), (b"ID?\r", b"FM-220 VER 1.04 SN 88213\r\n")]):
        log.said(t + 10 * i, said)
        log.heard(t + 10 * i + 0.08, Chunk(came, {}))
    log.close()
    code, out, _ = run("exchanges", str(log.path), "--json")
    (file,) = json.loads(out)["files"]
    assert code == 0 and [one["state"] for one in file["exchanges"]] == ["refused", "answered"]
    parts = {part["name"]: part["value"] for part in file["exchanges"][1]["parts"]}
    assert parts == {"model": "FM-220", "firmware": "1.04", "serial number": "88213"}
    assert file["exchanges"][0]["end"] == "cr" and file["proof"]["grade"] == "fair"
    code, out, _ = run("exchanges", str(log.path))
    assert code == 0 and "Fair proof" in out and "refused" in out


def test_a_file_that_is_no_log_is_named(tmp_path: Path) -> None:
    (tmp_path / "notes.txt").write_text("VER? brought nothing")
    code, _, err = run("exchanges", str(tmp_path / "notes.txt"))
    assert code == 2 and "notes.txt" in err and "expected a log" in err
