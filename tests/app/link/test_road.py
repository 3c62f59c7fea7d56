"""From an empty record to a proof with each of the valley's devices, by nothing but what is recommended."""

from dataclasses import replace
from pathlib import Path

import pytest

from humble_courier.app.link.changes import new_link
from humble_courier.app.link.evidence import Evidence
from humble_courier.app.link.open_link import OpenLink
from humble_courier.app.link.road import next_step
from humble_courier.app.link.seen import LinkSeen
from humble_courier.app.link.step import Action, NextStep
from humble_courier.app.talk.traffic import Traffic
from humble_courier.app.talk.typed_words import Typed
from humble_courier.catalog.links import Link
from humble_courier.catalog.load import Catalog
from humble_courier.documents.base import EndModel
from humble_courier.documents.kit import KitItem, KitModel
from humble_courier.documents.link import LinkModel, LinkPart
from humble_courier.domain.clock import Clock
from humble_courier.domain.proven import Grade, ProofKind
from humble_courier.port.authority import Authority
from humble_courier.records.store import Store
from tests.conftest import until
from tests.virtual_time import VirtualTime

STRONG = (ProofKind.ANSWERED, Grade.STRONG)
KINDS = {
    "bench-meter": (*STRONG, "1042"),
    "bridge-controller": (*STRONG, "CLOSED"),
    "chart-recorder": (*STRONG, "READY"),
    "data-concentrator": (*STRONG, "192.168.4.1/24"),
    "gauge-logger": (*STRONG, "SKW-GH-07"),
    "mesh-module": (*STRONG, "M0311"),
    "packet-radio": (ProofKind.HEARD, Grade.FAIR, "RIDGE-7"),
    "snow-carrier": (*STRONG, "00"),
    "snow-pillow": (ProofKind.READ, Grade.STRONG, "412 mm"),
    "survey-plotter": (*STRONG, "A3"),
    "tape-recorder": (*STRONG, "0001"),
    "valley-tractor": (ProofKind.HEARD, Grade.FAIR, "engine 1"),
    "wind-sensor": (ProofKind.HEARD, Grade.FAIR, "WIMWV"),
}
# Leads that nobody sells: made by hand, as "Build a cable" says.
MADE = {
    "wind-sensor": (
        "usb-rs422",
        EndModel("terminal", 5, "socket"),
        EndModel("terminal", 5, "plug"), ["A1-B2", "A2-B1", "A3-B4", "A4-B3", "A5-B5"]
    ),
    "packet-radio": (
        "usb-ttl-5v", EndModel("header", 6, "plug"), EndModel("header", 5, "socket"), ["A1-B1", "A4-B3", "A5-B2"]
    ),
}  # fmt: skip
DONE_AT_THE_DEVICE = (Action.PREPARE,)
PATIENCE_S = 600


def begun(device: str, catalog: Catalog) -> LinkModel:
    address = f"sim://bench/{device}?power=on"
    if device not in MADE:
        return new_link(device, ["usb-rs232"], address, catalog)
    adapter, near, far, conductors = MADE[device]
    model = new_link(device, [adapter], address, catalog)
    lead = LinkPart(id="made by hand", ends=[near, far], conductors=conductors)
    return LinkModel(model.courier, model.computer, model.device, [*model.chain, lead], model.settings, address=address)


def walk(link: OpenLink, clock: Clock, words: str = "") -> int:
    """Do what is recommended until a proof is kept, `words` typed where some are wanted; returns how many acts that took."""
    acts, end = 0, clock.now() + PATIENCE_S
    while not link.proofs():
        assert clock.now() < end, link.next_step()
        link.poll()
        step = link.next_step()
        if step.action is Action.PREPARE:
            for act in link.undone():
                link.tick(act.id, done=True)
        elif step.action is Action.TYPE and words:
            link.say_typed(Typed(words))
            words = ""
        elif step.action in (Action.WAIT, Action.TYPE):
            clock.wait(clock.now() + 0.02)
            continue
        else:
            assert link.take(step), step
        acts += 1
        clock.wait(clock.now() + 0.02)
    return acts


@pytest.mark.parametrize("device", KINDS)
def test_what_is_recommended_leads_to_a_proof(tmp_path: Path, catalog: Catalog, clock: VirtualTime, device: str) -> None:
    store = Store(tmp_path)
    link = OpenLink(catalog, store, store.save_link(begun(device, catalog), device), authority=Authority(clock))
    link.bag.kit = KitModel("kit/1", [KitItem(part=part) for part in catalog.part_entries])
    acts = walk(link, clock)
    proof = link.proofs()[0]
    kind, grade, told = KINDS[device]
    assert (proof.kind, proof.grade) == (kind, grade) and told in " ".join(proof.identity.values()), proof
    assert acts <= 12 and proof.reason
    until(lambda: (link.poll(), link.next_step().action is Action.PAPER)[1])
    link.stop()
    store.close()


def test_a_device_that_only_speaks_is_waited_for_unless_something_is_wrong(link: OpenLink, catalog: Catalog) -> None:
    """Acts of its sheet come before silence is waited out, and what is garbled is not listened to any longer."""
    here, trace = link_of("wind-sensor", link, catalog), link.document.trace

    def step(heard: Traffic, undone: tuple[str, ...] = ()) -> NextStep:
        evidence = Evidence(opened=True, heard=heard, reached=True)
        return next_step(LinkSeen(here, trace, evidence, catalog, link.bag.kit, True, False, 0, undone))

    assert step(Traffic.NOTHING, ("Switch it on",)).action is Action.PREPARE
    assert step(Traffic.NOTHING).action is Action.WAIT and "nothing has come yet" in step(Traffic.NOTHING).text
    assert step(Traffic.TEXT, ("Switch it on",)).action is Action.WAIT
    assert step(Traffic.WRONG_SETTINGS).action is Action.SHOW_SETTINGS


def link_of(device: str, link: OpenLink, catalog: Catalog) -> Link:
    sheet = catalog.device(device)
    return replace(link.document.link, sheet=sheet, computer_settings=None, device_settings=None)
