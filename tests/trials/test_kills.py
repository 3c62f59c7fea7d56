"""The process is killed while it saves: what it had said was saved is there, and nothing that is half."""

import os
import random
import signal
import subprocess
import sys
import time
from pathlib import Path

import msgspec
import pytest

from humble_courier.port.log import read_log
from humble_courier.records.store import Store
from tests.records.test_store import LINK, PROOF
from tests.trials.conftest import Report

ROOT = Path(__file__).parents[2]
SAVES = """
import sys
from pathlib import Path
from humble_courier.domain.facts import Fact, Provenance
from humble_courier.records.store import Store
from tests.records.test_store import LINK, PROOF
store = Store(Path(sys.argv[1]))
id_ = store.links()[0][0] if store.links() else store.save_link(LINK, "weir")
for i in range(100_000):
    number = store.add_proof(id_, PROOF)
    store.add_facts(id_, [Fact("proof", str(number), Provenance.OBSERVED, "a trial", 1.0)])
    store.remember("kit", "x" * (i % 3000))
    print(number, flush=True)
"""
LOGS = """
import sys
from pathlib import Path
from humble_courier.domain.received import Chunk
from humble_courier.port.log import LineLog
log = LineLog(Path(sys.argv[1]) / "log.jsonl")
log.begin("/dev/ttyUSB0", "9600,8N1")
for i in range(1_000_000):
    log.heard(i, Chunk(b"%d" % i * 50, {}))
    print(i, flush=True)
"""
FILES = """
import sys
from pathlib import Path
from humble_courier.app.files import write_whole
for i in range(1_000_000):
    write_whole(Path(sys.argv[1]) / "sheet.pdf", b"%09d" % i * 5000)
    print(i, flush=True)
"""


def killed(code: str, folder: Path, seconds: float) -> list[int]:
    """Run, and kill after so long from its first word on; returns the numbers that it said were saved."""
    process = subprocess.Popen(
        [sys.executable, "-c", code, str(folder)], stdout=subprocess.PIPE, text=True, cwd=ROOT, start_new_session=True
    )
    assert process.stdout is not None
    first = process.stdout.readline()
    time.sleep(seconds)
    os.kill(process.pid, signal.SIGKILL)
    rest = process.stdout.read().rpartition("\n")[0].split()
    process.wait()
    process.stdout.close()
    return [int(first), *map(int, rest)]


@pytest.mark.tries(4, 150)
def test_records_after_a_kill(tmp_path: Path, tries: int, report: Report) -> None:
    dice, saved = random.Random(1), set[int]()
    for _ in range(tries):
        saved |= set(killed(SAVES, tmp_path, dice.uniform(0, 0.3)))
        store = Store(tmp_path)
        (id_, name), *others = store.links()
        proofs, facts = store.proofs(id_), store.facts(id_)
        assert (name, others, store.link(id_), store.left_out) == ("weir", [], LINK, {})
        assert len(proofs) >= max(saved) and all(msgspec.structs.replace(proof, who="") == PROOF for proof in proofs)
        assert {str(i) for i in saved} <= {fact.text for fact in facts}
        store.close()
    report("kills while records are saved", tries, 0)


@pytest.mark.tries(3, 60)
def test_a_log_after_a_kill(tmp_path: Path, tries: int, report: Report) -> None:
    dice = random.Random(2)
    for i in range(tries):
        folder = tmp_path / str(i)
        said = killed(LOGS, folder, dice.uniform(0, 0.1))
        logged = read_log((folder / "log.jsonl").read_bytes())
        assert not logged.damaged and len(logged.pieces) > said[-1]
    report("kills while a log is written", tries, 0)


@pytest.mark.tries(3, 60)
def test_a_file_after_a_kill(tmp_path: Path, tries: int, report: Report) -> None:
    dice = random.Random(3)
    for _ in range(tries):
        said = killed(FILES, tmp_path, dice.uniform(0, 0.1))
        data = (tmp_path / "sheet.pdf").read_bytes()
        assert data == data[:9] * 5000 and int(data[:9]) >= said[-1]
    report("kills while a file is written", tries, 0)


@pytest.mark.tries(2, 12)
def test_two_writers_at_once(tmp_path: Path, tries: int, report: Report) -> None:
    Store(tmp_path).close()
    code = SAVES.replace("range(100_000)", "range(40)")
    for _ in range(tries):
        both = [
            subprocess.Popen([sys.executable, "-c", code, str(tmp_path)], stdout=subprocess.PIPE, cwd=ROOT) for _ in "ab"
        ]
        said = {int(number) for one in both for number in one.communicate()[0].split()}
        assert [one.returncode for one in both] == [0, 0] and len(said) == 80
    store = Store(tmp_path)
    kept = sum(len(store.proofs(id_)) for id_, _ in store.links())
    assert kept == 80 * tries
    store.close()
    report("proofs saved by two writers at once", 80 * tries, 80 * tries - kept)
