"""A link proven by itself: what each device shows with and without a permit, and why it is not proven where it is not."""

from collections.abc import Callable
from contextlib import nullcontext
from pathlib import Path

import msgspec
import pytest

from humble_courier.app.link.proof_run import ProofRun, WhyNot
from humble_courier.catalog.links import resolve_link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.link import LinkModel
from humble_courier.documents.link_changes import with_settings
from humble_courier.domain.clock import SystemClock
from humble_courier.domain.proven import ProofKind
from humble_courier.errors import BadInput, MachineRefused, PortGone
from humble_courier.port.authority import Authority
from humble_courier.port.log import LineLog, read_log
from tests.app.link.test_road import begun
from tests.trials.ptys import far_end
from tests.virtual_time import VirtualTime, in_force

PARTS = {
    "gauge-logger": ["usb-rs232", "crossed-de9-3wire"],
    "snow-pillow": ["usb-rs485"],
    "snow-carrier": ["usb-can-ascii", "cable-can-de9-round-9"],
    "mesh-module": ["usb-ttl-3v3"],
}


def model(device: str, catalog: Catalog, options: str = "", **changes: object) -> LinkModel:
    made = begun(device, catalog)
    options = options or str(made.address).partition("?")[2]
    if device in PARTS:
        made = msgspec.structs.replace(made, chain=[type(made.chain[0])(part=part) for part in PARTS[device]])
    return msgspec.structs.replace(made, address=f"sim://bench/{device}?{options}", **changes)


def run(made: LinkModel, catalog: Catalog, folder: Path, armed: bool, seconds: float = 60.0) -> ProofRun:
    """In virtual time: it keeps to its seconds, whatever the computer does beside it. A real line has its own time."""
    real = str(made.address).startswith("/")
    with nullcontext(SystemClock()) if real else in_force(VirtualTime()) as clock:
        log = LineLog(folder / "log.jsonl", clock)
        proof = ProofRun(resolve_link(made, catalog), catalog, log, armed, seconds, authority=Authority(clock))
        begin = clock.now()
        proof.run()
        assert real or clock.now() - begin < seconds + 1
    return proof


@pytest.mark.parametrize(
    ("device", "kind", "told"),
    [
        ("gauge-logger", ProofKind.ANSWERED, "SKW-GH-07"),
        ("snow-pillow", ProofKind.READ, "412 mm"),
        ("snow-carrier", ProofKind.ANSWERED, "00"),
        ("wind-sensor", ProofKind.HEARD, "WIMWV"),
    ],
)
def test_what_each_shows(tmp_path: Path, catalog: Catalog, device: str, kind: ProofKind, told: str) -> None:
    proof = run(model(device, catalog), catalog, tmp_path, armed=kind is not ProofKind.HEARD)
    assert proof.shown is not None and proof.shown.kind is kind and proof.why_not == []
    assert told in " ".join(proof.shown.identity.values())


@pytest.mark.parametrize(
    ("change", "armed", "why"),
    [
        (lambda c: model("gauge-logger", c), False, [WhyNot.NOTHING_HEARD, WhyNot.NOT_ARMED]),
        (lambda c: model("gauge-logger", c, "power=600"), True, [WhyNot.NO_ANSWER, WhyNot.NOTHING_HEARD]),
        (lambda c: model("snow-pillow", c, unit=99), True, [WhyNot.NO_ANSWER, WhyNot.NOTHING_HEARD]),
        (lambda c: with_settings(model("wind-sensor", c, "power=on&settings=4800,8N1"), computer="9600,8N1"), False,
         [WhyNot.GARBLED, WhyNot.TOO_LITTLE, WhyNot.NO_WORDS]),
    ],
)  # fmt: skip
def test_why_it_is_not_proven(
    tmp_path: Path, catalog: Catalog, change: Callable[[Catalog], LinkModel], armed: bool, why: list[WhyNot]
) -> None:
    proof = run(change(catalog), catalog, tmp_path, armed, seconds=4.0)
    assert proof.shown is None and proof.why_not == why
    said = [piece for piece in read_log((tmp_path / "log.jsonl").read_bytes()).pieces if piece.who == "we"]
    assert bool(said) == armed


def test_a_port_that_is_not_there_or_goes_away(tmp_path: Path, catalog: Catalog) -> None:
    bare = msgspec.structs.replace(model("gauge-logger", catalog), address=None)
    with pytest.raises(BadInput, match="names no port"):
        run(bare, catalog, tmp_path, armed=False)
    with pytest.raises(MachineRefused):
        run(msgspec.structs.replace(bare, address="/dev/ttyNONE9"), catalog, tmp_path, armed=False)
    with far_end(pull_after=0) as there, pytest.raises(PortGone):
        run(msgspec.structs.replace(bare, address=there.address), catalog, tmp_path, armed=True)


def test_an_unarmed_run_says_nothing_on_a_real_line(tmp_path: Path, catalog: Catalog) -> None:
    with far_end() as there:
        made = msgspec.structs.replace(model("gauge-logger", catalog), address=there.address)
        run(made, catalog, tmp_path, armed=False, seconds=1.5)
        assert bytes(there.received) == b""
