"""One signal ends every command that has a port: nothing leaves after it, and what came so far is printed, whole."""

import json
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

import pytest

from humble_courier.port.log import read_log
from tests.conftest import until
from tests.trials.ptys import FarEnd, far_end

SETTINGS = ("--settings", "9600,8N1")
HUNG_S = 60.0  # ends a test that hangs; all commands here would go on for longer, or end with another code
COMMANDS: dict[str, tuple[str, ...]] = {
    "listen": ("listen", "PORT", *SETTINGS, "--seconds", "600", "--json"),
    "say": ("say", "PORT", *SETTINGS, "--text", "VER?", "--arm", "--timeout", "600", "--json"),
    "find": ("find", "PORT", "--arm", "--json"),
    "loopback": ("loopback", "PORT", "--arm", "--rate", "300", "--json"),
    "latency": ("latency", "PORT", *SETTINGS, "--arm", "--times", "9999", "--json"),
    "learn": ("learn", "PORT", *SETTINGS, "--say", "VER?", "--as", "a-meter", "--arm", "--timeout", "600", "--json"),
    "wake": ("wake", "PORT", "--arm", "--json"),
    "units": ("units", "PORT", "--arm", "--json"),
    "prove": ("prove", "LINK", "--arm", "--seconds", "600", "--json"),
}  # fmt: skip
CASES = [
    *((name, signal.SIGINT) for name in COMMANDS),
    *((name, which) for which in (signal.SIGTERM, signal.SIGHUP) for name in ("listen", "find")),
]
FIRST = b"first line\r\n"
LINK = """courier: link/1
computer: {port: dte-de9}
device: {device: text-instrument-dce}
chain: []
settings: {computer: "9600,8N1"}
address: PORT
"""


def as_on_a_desktop() -> None:
    """No signal is ignored, however this test was started: behind & or by nohup some are."""
    for one in (signal.SIGINT, signal.SIGHUP):
        signal.signal(one, signal.SIG_DFL)


@contextmanager
def begun(command: tuple[str, ...], port: str, folder: Path) -> "Iterator[subprocess.Popen[str]]":
    """A command of its own process, with records of its own; it is gone afterwards in any case."""
    link = folder / "a-link.yaml"
    link.write_text(LINK.replace("PORT", port))
    words = [{"PORT": port, "LINK": str(link)}.get(word, word) for word in command]
    arguments = [sys.executable, "-m", "humble_courier", "--data", str(folder / "records"), *words]
    pipe = subprocess.PIPE
    with subprocess.Popen(arguments, stdout=pipe, stderr=pipe, text=True, preexec_fn=as_on_a_desktop) as process:
        try:
            yield process
        finally:
            process.kill()


def heard(folder: Path) -> bytes:
    """What stands in the logs so far; one read may bring a single byte."""
    pieces = [piece for log in folder.rglob("*.jsonl") for piece in read_log(log.read_bytes()).pieces]
    return b"".join(piece.data for piece in pieces if piece.who == "they")


def at_work(name: str, process: "subprocess.Popen[str]", far: FarEnd, folder: Path) -> None:
    """Wait until it has the port: it has sent something, or taken in what was said."""
    if name in ("listen", "prove"):
        until(lambda: held_by(process.pid, far.address) or process.poll() is not None)
        time.sleep(0.3)  # a port that opens throws away what came before
        far.say(FIRST)
        until(lambda: FIRST in heard(folder) or process.poll() is not None)
    else:
        until(lambda: len(far.received) > 0 or process.poll() is not None)
    assert process.poll() is None, process.communicate()[1]


def held_by(pid: int, port: str) -> bool:
    """Whether a process has a port open."""
    for one in Path(f"/proc/{pid}/fd").iterdir():
        with suppress(FileNotFoundError):  # it was closed meanwhile
            if str(one.readlink()) == port:
                return True
    return False


@pytest.mark.parametrize(("name", "which"), CASES, ids=[f"{name}-{which.name}" for name, which in CASES])
def test_one_signal_ends_it_and_what_came_is_printed(name: str, which: signal.Signals, tmp_path: Path) -> None:
    with far_end() as far, begun(COMMANDS[name], far.address, tmp_path) as process:
        at_work(name, process, far, tmp_path)
        process.send_signal(which)
        out, err = process.communicate(timeout=HUNG_S)
        count = len(far.received)
        time.sleep(0.3)
        assert len(far.received) == count, "nothing leaves after it"
    assert process.returncode == 130, err
    told = json.loads(out)
    assert "Traceback" not in err
    if name == "listen":
        assert bytes.fromhex(told["bytes"]) == FIRST and Path(told["log"]).exists()
    if name == "loopback":
        assert told["verdict"] == "stopped"
    if name == "find":
        assert told["found"] is None


def test_a_port_that_does_not_open_keeps_nobody_waiting(tmp_path: Path) -> None:
    """A server that takes connections and answers nothing: the handshake of RFC 2217 waits for seconds."""
    import socket

    with socket.create_server(("127.0.0.1", 0)) as silent:
        address = f"rfc2217://127.0.0.1:{silent.getsockname()[1]}"
        with begun(("listen", address, *SETTINGS, "--json"), "", tmp_path) as process:
            silent.settimeout(HUNG_S)
            there, _ = silent.accept()
            with there:
                time.sleep(0.3)
                process.send_signal(signal.SIGINT)
                out, _ = process.communicate(timeout=HUNG_S)
    assert process.returncode == 130 and json.loads(out)["error"]["code"] == "interrupted"
