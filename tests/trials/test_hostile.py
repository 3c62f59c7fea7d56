"""Documents that mean harm, and files that are none: one clear error each, and the process lives."""

import os
import subprocess
import sys
from pathlib import Path

import pytest

from humble_courier.app.wire.meter_files import read_volts
from humble_courier.catalog.load import Catalog
from humble_courier.documents.files import read_bounded, read_whole
from humble_courier.documents.reader import LARGEST_DOCUMENT, parse, read_text
from humble_courier.errors import BadInput
from humble_courier.host.aliases import Aliases
from humble_courier.line.captures import MOST_SIGNALS, read_vcd

CATALOG = Catalog()
BOMB = "a: &a [x,x,x,x,x,x,x,x,x]\n" + "".join(
    f"{new}: &{new} [{','.join(['*' + old] * 9)}]\n" for old, new in zip("abcdefgh", "bcdefghi", strict=True)
)


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("[" * 1_000_000, "depth"),
        ("[" * 60_000, "depth"),
        ('{"a":' * 60_000, "deep"),
        ("- " * 60_000, "deep"),
        ("? " * 60_000, "deep"),
        ("\n".join(" " * i + "a:" for i in range(2000)), "deep"),
        ("[" * 900, "not valid YAML"),
        ("[" * 900 + "]" * 900, "deep"),
        (BOMB, "entries"),
        ("[" + "a," * 500_000 + "a]", "entries"),
        ("- a\n" * 500_000, "entries"),
        ("x" * (LARGEST_DOCUMENT + 1), "MB"),
        ("a: " + "9" * 5000, "number"),
        ("a: 0x" + "f" * 5000, "number"),
        ("a: 1e999", "number"),
        ("a: \0", "YAML"),
    ],
    ids=lambda text: text[:12],
)
def test_a_document_that_means_harm(text: str, told: str) -> None:
    """In a process of its own: what is tested against ends the process."""
    code = (
        "import sys\nfrom humble_courier.documents.reader import parse\nfrom humble_courier.errors import BadInput\n"
        "try: parse(sys.stdin.read(), 'x.yaml')\nexcept BadInput as error: print(error)"
    )
    done = subprocess.run([sys.executable, "-c", code], input=text, capture_output=True, text=True, check=False)
    assert (done.returncode, done.stderr) == (0, "")
    assert told in done.stdout and done.stdout.startswith("x.yaml") and len(done.stdout.splitlines()) == 1


def test_what_is_large_and_harmless_is_read() -> None:
    kit = "parts:\n" + "".join(f"  - {{part: straight-de9, count: {i}, served: 1, failed: 0}}\n" for i in range(5000))
    assert len(parse(kit, "kit").data["parts"]) == 5000
    assert parse("a: &a [1, 2]\nb: *a\nc: null\nd:\n", "x").data == {"a": [1, 2], "b": [1, 2], "c": None, "d": None}


@pytest.mark.parametrize("kind", ["fifo", "folder", "device", "missing", "nul"])
def test_what_is_no_file_is_refused_at_once(kind: str, tmp_path: Path) -> None:
    path = {"device": Path("/dev/zero"), "nul": Path("a\0b")}.get(kind, tmp_path / kind)
    if kind == "fifo":
        os.mkfifo(path)
    if kind == "folder":
        path.mkdir()
    for read in (read_text, lambda p: read_bounded(p, 10), lambda p: read_whole(p, 10), Aliases.read):
        with pytest.raises(Exception, match=r"pipe|read") as caught:
            read(path)
        assert caught.type.__module__ == "humble_courier.errors"


def test_the_size_that_counts_is_what_was_read(tmp_path: Path) -> None:
    path = tmp_path / "x"
    path.write_bytes(b"12345")
    assert read_bounded(path, 4) == (b"1234", True) and read_bounded(path, 5) == (b"12345", False)
    with pytest.raises(BadInput, match="larger"):
        read_whole(path, 4)
    grows = Path("/proc/self/status")  # st_size tells nothing of it
    assert grows.stat().st_size == 0 and read_whole(grows, 100_000)


def test_a_cell_that_no_reader_takes(tmp_path: Path) -> None:
    path = tmp_path / "readings.csv"
    path.write_text("contact,volts\n" + "x" * 200_000 + ",5\n")
    with pytest.raises(BadInput, match="not a CSV"):
        read_volts(path, CATALOG.port("dte-de9").connector, CATALOG)


@pytest.mark.parametrize(
    ("head", "told"),
    [
        (b"$timescale " + b"9" * 5000 + b" us $end $var wire 1 a x $end", "time scale"),
        (b"$timescale 1 us $end " + b"".join(b"$var wire 1 %d n $end " % i for i in range(20_000)), "signals"),
        (b"$timescale 1 us $end " + b"$var wire 1 a x " * 200_000, "signal"),
    ],
)
def test_recordings_that_mean_harm(head: bytes, told: str) -> None:
    with pytest.raises(BadInput, match=told):
        read_vcd(head + b" $enddefinitions $end\n#0\n1a\n", "x.vcd")
    assert MOST_SIGNALS >= 32
