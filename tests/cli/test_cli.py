"""The commands as a shell sees them: exit codes, JSON keys, one line for what is wrong."""

import io
import json
import os
import signal
import subprocess
import sys
from pathlib import Path

import pytest
import serial

from humble_courier.__main__ import main
from tests.conftest import until

ROOT = Path(__file__).parents[2]
LOGGER = "sim://bench/gauge-logger?power=on&pace=5"
LINK = """courier: link/1
computer: {port: usb-a}
device: {device: gauge-logger}
chain: [{part: usb-rs232}, {part: CABLE}]
settings: {computer: "1200,7E1"}
"""


DRAWS = ("--pdf", "--svg", "shots", "sheet", "label", "demo", "open")  # want a window toolkit of their own


def run(*words: str, stdin: str | None = None) -> tuple[int, str, str]:
    """What a shell gets: exit code, standard output, standard error.

    In this process where that makes no difference, since starting Python anew takes longer than most commands.
    """
    if any(word in DRAWS for word in words) or not words:
        return run_apart(*words, stdin=stdin)
    out, error = (io.TextIOWrapper(io.BytesIO(), "utf-8", write_through=True) for _ in range(2))
    typed = io.TextIOWrapper(io.BytesIO((stdin or "").encode()), "utf-8")
    before = sys.argv, sys.stdin, sys.stdout, sys.stderr, sys.excepthook
    sys.argv, sys.stdin, sys.stdout, sys.stderr = ["humble-courier", *words], typed, out, error
    try:
        main()
    except SystemExit as end:
        code = end.code if isinstance(end.code, int) else 0
    else:
        code = 0
    finally:
        sys.argv, sys.stdin, sys.stdout, sys.stderr, sys.excepthook = before
    told = [stream.buffer.getvalue().decode() for stream in (out, error)]  # type: ignore[attr-defined]
    return code, told[0], told[1]


def run_apart(*words: str, stdin: str | None = None) -> tuple[int, str, str]:
    """The same in a process of its own."""
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    command = [sys.executable, "-m", "humble_courier", *words]
    done = subprocess.run(command, capture_output=True, text=True, timeout=60, env=environment, check=False, input=stdin)
    assert "Traceback" not in done.stderr + done.stdout
    return done.returncode, done.stdout, done.stderr


@pytest.fixture
def link(tmp_path: Path) -> Path:
    path = tmp_path / "weir.link.yaml"
    path.write_text(LINK.replace("CABLE", "crossed-de9-3wire"))
    return path


def test_trace(link: Path) -> None:
    code, out, _ = run("trace", str(link), "--json")
    result = json.loads(out)
    assert (code, result["verdict"], result["findings"]) == (0, "works", [])
    assert result["handshake"] == {"rts_cts": False, "dtr_dsr": False}
    assert {"contacts", "signals", "problem"} <= set(result["nets"][0])
    link.write_text(LINK.replace("CABLE", "straight-de9"))
    code, out, _ = run("trace", str(link), "--json")
    result = json.loads(out)
    assert (code, result["verdict"]) == (1, "will-not-work")
    assert {"code", "severity", "text", "where"} <= set(result["findings"][0])
    code, out, _ = run("trace", str(link))
    assert code == 1
    assert "two senders meet" in out


def test_hear() -> None:
    code, out, _ = run("hear", "--sent", "1200,7E1", "--heard-as", "2400,8N1", "--text", "L", "--json")
    assert code == 0
    clean = {"framing_error": False, "parity_error": False, "break": False}
    assert json.loads(out) == {"received": [{"byte": 0xE0, **clean}, {"byte": 0xF8, **clean}]}
    code, out, _ = run("hear", "--sent", "9600,8N1", "--heard-as", "9600,8N1", "--hex", "4F4B", "--idle", "2", "--json")
    assert [one["byte"] for one in json.loads(out)["received"]] == [0x4F, 0x4B]


def test_listen_and_say() -> None:
    code, out, _ = run("listen", LOGGER.replace("power=on&", ""), "--settings", "1200,7E1", "--seconds", "0.8", "--json")
    assert code == 0
    heard = json.loads(out)
    assert (heard["text"], heard["errors"], heard["looks_like"]) == ("LEVEL LOGGER FW 3.1 READY\r\n", 0, "text")
    assert bytes.fromhex(heard["bytes"]).decode() == heard["text"]
    code, out, _ = run("listen", LOGGER, "--settings", "1200,7E1", "--seconds", "0.2", "--json")
    assert (code, json.loads(out)["looks_like"]) == (1, "nothing")
    words = ("say", LOGGER, "--settings", "1200,7E1", "--text", "ID", "--end", "crlf", "--expect", r"SN (\d+)")
    code, out, err = run(*words)
    assert (code, out) == (3, "")
    assert "--arm" in err
    code, out, _ = run(*words, "--arm", "--json")
    said = json.loads(out)
    assert (code, said["matched"], said["sent"]) == (0, True, "ID\r\n")
    assert said["received"] == "ID SKW-GH-07 FW3.1 SN 20418\r\n"
    assert said["ms"] > 0


def test_simulate_on_a_pty(tmp_path: Path) -> None:
    path = tmp_path / "logger"
    command = [sys.executable, "-m", "humble_courier", "simulate", "gauge-logger", "--pty", str(path), "--power", "on"]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, text=True)
    assert process.stdout is not None
    assert "gauge-logger" in process.stdout.readline()
    until(path.exists)
    with serial.Serial(str(path), 1200, timeout=5) as port:
        port.write(b"ID\r\n")
        assert port.read_until(b"\n").startswith(b"ID SKW")
    code, out, _ = run("say", str(path), "--settings", "1200,7E1", "--text", "LV", "--end", "crlf", "--arm", "--json")
    assert (code, json.loads(out)["received"]) == (0, "LV +01.284 M OK\r\n")
    process.send_signal(signal.SIGINT)
    assert process.wait(10) == 0
    process.stdout.close()
    assert not path.exists()


def test_paper(link: Path, tmp_path: Path) -> None:
    pdf, svg = tmp_path / "sheet.pdf", tmp_path / "wiring.svg"
    code, _, _ = run("sheet", str(link), "--pdf", str(pdf), "--svg", str(svg))
    assert code == 0
    text = subprocess.run(["pdftotext", "-layout", str(pdf), "-"], capture_output=True, text=True, check=True).stdout
    for word in ("Gauge-house level logger", "1200 7E1", "Crossed cable", "edition 4", "Caution"):
        assert word in text
    drawing = svg.read_text()
    assert drawing.lstrip().startswith("<?xml")
    assert "TXD" in drawing
    code, _, err = run("sheet", str(link), "--pdf", str(tmp_path / "no" / "sheet.pdf"))
    assert (code, "cannot be written" in err) == (3, True)


@pytest.mark.parametrize("kind", ["link", "kit", "device", "records"])
def test_schemas(kind: str) -> None:
    code, out, _ = run("schema", kind)
    assert code == 0
    assert json.loads(out)["title"] == f"{kind}/1"


def test_records_export(tmp_path: Path) -> None:
    code, _, err = run("--data", str(tmp_path), "records", "export")
    assert (code, "no records yet" in err) == (2, True)
    make = "import sys; from pathlib import Path; from humble_courier.app.demo.records import demo_store; " \
        "from humble_courier.catalog.load import Catalog; demo_store(Path(sys.argv[1]), Catalog(), False)"  # fmt: skip
    subprocess.run([sys.executable, "-c", make, str(tmp_path)], check=True)
    code, out, _ = run("--data", str(tmp_path), "records", "export")
    exported = json.loads(out)
    assert (code, exported["courier"], len(exported["links"])) == (0, "records/1", 13)
    assert "Gauge house, level logger" in {link["name"] for link in exported["links"]}
    code, _, _ = run("--data", str(tmp_path), "records", "export", "--out", str(tmp_path / "all.json"))
    assert json.loads((tmp_path / "all.json").read_text()) == exported


@pytest.mark.parametrize("what", ["parts", "connectors", "devices"])
def test_what_the_catalog_holds(what: str) -> None:
    code, out, _ = run(what, "--json")
    assert (code, len(json.loads(out)[what]) > 1) == (0, True)
    assert run(what)[0] == 0


@pytest.mark.parametrize(
    ("words", "code", "told"),
    [
        (["trace", "/nowhere.yaml"], 2, "No such file"),
        (["trace"], 2, "LINK"),
        (["frobnicate"], 2, "frobnicate"),
        (["hear", "--sent", "9600,9N1", "--heard-as", "9600,8N1", "--text", "x"], 2, "9N1"),
        (["hear", "--sent", "9600,8N1", "--heard-as", "9600,8N1"], 2, "--text"),
        (["hear", "--sent", "9600,8N1", "--heard-as", "9600,8N1", "--hex", "4"], 2, "hexadecimal"),
        (["hear", "--sent", "9600,8N1", "--heard-as", "9600,8N1", "--text", "\u20ac"], 2, "one byte"),
        (["listen", "/dev/ttyNONE9", "--settings", "9600,8N1"], 3, "there is no port"),
        (["listen", "/dev/ttyNONE9", "--settings", "9600"], 2, "RATE,FRAME"),
        (["listen", "sim://bench/nothing", "--settings", "9600,8N1"], 2, "nothing"),
        (["listen", "sim://bench/gauge-logger?vanish=0.4", "--settings", "9600,8N1", "--seconds", "3"], 3, "is gone"),
        (["say", LOGGER, "--settings", "1200,7E1", "--text", "ID", "--expect", "(", "--arm"], 2, "regular expression"),
        (["simulate", "nothing"], 2, "nothing"),
        (["simulate", "gauge-logger", "--fault", "gremlin"], 2, "gremlin"),
        (["schema", "poem"], 2, "poem"),
        (["sheet", "x.yaml"], 2, "--pdf"),
    ],
)
def test_what_is_wrong_is_one_line(words: list[str], code: int, told: str) -> None:
    got, _, err = run(*words)
    assert got == code
    assert told in err
    assert err.count("\n") == 1


def test_a_newer_database_and_a_reader_that_leaves(tmp_path: Path) -> None:
    import sqlite3

    with sqlite3.connect(tmp_path / "records.sqlite3") as database:
        database.execute("CREATE TABLE alembic_version (version_num TEXT)")
        database.execute("INSERT INTO alembic_version VALUES ('9999')")
        database.execute("CREATE TABLE links (id TEXT)")
    database.close()
    code, _, err = run("--data", str(tmp_path), "records", "export")
    assert (code, "newer version" in err, err.count("\n")) == (3, True, 1)
    left = subprocess.run(
        f"{sys.executable} -m humble_courier parts --json | head -1", shell=True, capture_output=True, text=True, check=True
    )
    assert left.stderr == ""
