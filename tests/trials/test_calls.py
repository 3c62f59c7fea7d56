"""Every command is called with what nobody would write: one of the published errors, and never a defect of ours."""

import random
import re
from pathlib import Path
from traceback import extract_tb

import click
import pytest
from click.testing import CliRunner

from humble_courier.__main__ import _Rooms
from humble_courier.cli.app import build
from humble_courier.errors import CourierError
from tests.cli.test_app import FILES, PRINTED
from tests.trials.conftest import Report
from tests.trials.streams import SOUND, mutated

READS = [words for words, _, _ in PRINTED if re.search(r"\w+\.(yaml|csv|txt|raw)", words)]
OTHER = [
    "schema {}",
    "driver {}",
    "rate --clock {} --rate {}",
    "switches --address {} --width {}",
    "plan {} --kit {}",
    "hear --sent {} --heard-as {} --text {}",
    "ip --device {} --computer {}",
    "decode {} --protocol {}",
    "identify {}",
    "timing --settings {} --bytes {} --timeout {}",
    "timing --settings 9600,8N1 --bytes 9 --takes {} --buffer {}",
    "timing --settings 9600,8N1 --bytes 9 --per-second {} --turnaround {} --latency {}",
    "identify {} --ends {}",
    "hear --sent 9600,8N1 --heard-as 9600,8N1 --text A --idle {} --rise {} --jitter {} --drift {}",
    "infer {} --heard-as {}",
    "name {}",
    "listen {} --settings {}",
]
WORDS = [
    "", "0", "-1", "9" * 40, "1e9", "1e300", "1e-300", "0.5", "100", "nan", "inf", "9600,8N1", "9600,8X9", "0,8N1",
    "x" * 3000, "\x1b[2J",
    "\u202e", "é€",
    "--", "-", "{}", "[", "/", ".", "/dev/null", "/etc/shadow", "sim://", "sim://bench/", "sim://bench/x?power=maybe", "\t",
    "socket://:0", "rfc2217://256.1.1.1:1", "192.168.1.1/33", "1a86:7523", "%s%n", "a=b", "--json",
]  # fmt: skip
FAULTS = [b"", b"\0", b"\xff", b": ", b"[", b"\n", b"999999999999", b"'", b"&a", b"-"]


def spoilt(text: str, dice: random.Random) -> bytes:
    """A file with faults put in: bytes changed, lost, doubled, its end cut off; or something else altogether."""
    data = bytearray(text.encode())
    kind = dice.randrange(5)
    if kind == 0:
        return dice.randbytes(dice.randrange(3000))
    if kind == 1:
        return mutated(dice.choice(list(SOUND)), 2000, dice.randrange(1 << 30))
    for _ in range(dice.randrange(1, 12)):
        at = dice.randrange(len(data) + 1)
        data[at : at + dice.randrange(4)] = dice.choice(FAULTS)
    return bytes(data[: dice.randrange(len(data) + 1)] if kind == 2 else data)


@pytest.mark.tries(250, 7000)
def test_no_call_is_answered_by_a_defect(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, tries: int, report: Report
) -> None:
    monkeypatch.chdir(tmp_path)
    dice, command, runner = random.Random(7), build(_Rooms()), CliRunner()
    defects: dict[str, str] = {}
    for i in range(tries):
        if i % 3:
            words = dice.choice(READS).split()
            for name in set(words) & set(FILES):
                Path(name).write_bytes(spoilt(FILES[name], dice))
        else:
            words = [dice.choice(WORDS) if word == "{}" else word for word in dice.choice(OTHER).split()]
            words += ["--seconds", "0.05"] if words[0] == "listen" else []
        result = runner.invoke(command, words, standalone_mode=False)
        error = result.exception
        ours = isinstance(error, CourierError | SystemExit | click.exceptions.Exit | click.ClickException | type(None))
        if not ours:
            where = extract_tb(error.__traceback__)[-1]
            defects.setdefault(f"{where.filename}:{where.lineno}", f"{' '.join(words)[:200]}: {error!r}")
    assert not defects, defects
    report("calls with what nobody would write", tries, 0)
