"""Each kind of device is reached from a computer by a chain of the catalog, simulated, and proven by what is recommended."""

from dataclasses import replace
from pathlib import Path

import msgspec
import pytest

from humble_courier.app.link.changes import new_link
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.link.proof_run import ProofRun
from humble_courier.app.link.step import Action
from humble_courier.app.talk.playing import Playing
from humble_courier.app.wire.proposals import best
from humble_courier.app.wire.tracing import trace_link
from humble_courier.catalog.links import Link, resolve_link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.device import Addresses
from humble_courier.documents.kit import KitModel
from humble_courier.domain.proven import ProofKind
from humble_courier.domain.utterance import Who
from humble_courier.errors import BadInput
from humble_courier.port.authority import Authority
from humble_courier.port.log import LineLog
from humble_courier.records.store import Store
from tests.conftest import until
from tests.virtual_time import VirtualTime

CATALOG = Catalog()
EMPTY = KitModel(courier="kit/1", items=[])
HEARD = {
    "nmea-talker", "nmea-talker-fast", "mstp-card", "j1708-vehicle", "kiss-radio", "scale-reader",
}  # fmt: skip
READ = {"modbus-rtu-rs485", "modbus-rtu-rs232", "modbus-ascii-unit", "df1-controller", "kline-unit"}
ONLY_LISTENS = {"nmea-listener"}  # what proves it is its display: see tests of the talker


def test_there_are_kinds_enough_and_none_of_the_demo_among_them() -> None:
    kinds = CATALOG.device_ids()
    assert len(kinds) >= 24 and all(CATALOG.is_kind(id_) for id_ in kinds)
    assert CATALOG.has_sheet("gauge-logger") and "gauge-logger" in Catalog(demo=True).device_ids()


@pytest.mark.parametrize("id_", CATALOG.device_ids())
def test_each_kind_is_reached_and_proven(id_: str, tmp_path: Path, clock: VirtualTime) -> None:
    model = new_link(id_, [], f"sim://bench/{id_}?power=on", CATALOG)
    usb = msgspec.structs.replace(model, computer=msgspec.structs.replace(model.computer, port="usb-a"))
    way = best(resolve_link(usb, CATALOG), EMPTY, CATALOG)
    assert way is not None, "no chain of the catalog reaches it"
    link = resolve_link(way.model, CATALOG)
    assert trace_link(link, CATALOG).verdict.usable
    if id_ in ONLY_LISTENS:
        _seen_at_its_display(link, tmp_path, clock)
        return
    assert link.sheet is not None
    if id_ == "kline-unit":  # the whole round takes a minute
        few = Addresses(lowest=15, highest=16, bus="iso14230")
        link = replace(link, sheet=msgspec.structs.replace(link.sheet, addresses=few))
    run = ProofRun(link, CATALOG, LineLog(tmp_path / "log.jsonl"), armed=True, seconds=40.0, authority=Authority(clock))
    shown = run.run()
    assert shown is not None, run.why_not
    wanted = ProofKind.HEARD if id_ in HEARD else ProofKind.READ if id_ in READ else ProofKind.ANSWERED
    assert shown.kind is wanted and shown.reason


def _seen_at_its_display(link: Link, folder: Path, clock: VirtualTime) -> None:
    """A device that only listens is played to; what proves it is a person who looks at it."""
    store = Store(folder)
    opened = OpenLink(CATALOG, store, store.save_link(link.model, "listener"), authority=Authority(clock))
    opened.listen()
    opened._acts_passed = True
    with pytest.raises(BadInput):
        opened.mark_seen()
    opened.arm()
    assert opened.next_step().action is Action.PLAY
    opened.play(Playing({"every_s": "0.1", "speed_kn": "6", "course": "45", "turn": "0"}, ["GGA"], clock))
    until(lambda: (opened.poll(), any(one.who is Who.WE for one in opened.live.utterances()))[1])
    opened.mark_seen()
    shown = opened.evidence.shown
    assert shown is not None and shown.kind is ProofKind.MARKED and "sent" in shown.identity
    opened.stop()
    store.close()
