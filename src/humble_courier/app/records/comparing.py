"""What changed since it last worked: a link as it is now against its last proof, or against another link."""

from dataclasses import dataclass
from itertools import zip_longest

from humble_courier.catalog.links import Link
from humble_courier.documents.records import Proof
from humble_courier.domain.text import Terminator


@dataclass(frozen=True)
class LinkState:
    """A link by what may differ: texts by what they are called, in the order of the line."""

    port: str = ""
    socket: str = ""
    adapter: str = ""
    chain: tuple[str, ...] = ()
    computer_settings: str = ""
    device_settings: str = ""
    end: str = ""
    device: str = ""
    identity: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True)
class Changed:
    """One difference. `place` on the line: computer, port, part:N, settings, device."""

    place: str
    what: str
    before: str
    now: str


def state_of(link: Link, serial: str = "", socket: str = "") -> LinkState:
    """A link as it is set now; `serial`, `socket`: of the adapter that is in use, where they are known."""
    return LinkState(
        (link.address or "").partition("?")[0], socket, serial, tuple(part.name for part in link.parts),
        str(link.computer_settings or ""), str(link.device_settings or ""),
        Terminator(link.model.end).spoken if link.model.end else "", link.sheet.name if link.sheet is not None else "",
    )  # fmt: skip


def state_then(proof: Proof) -> LinkState:
    """As it was when it was proven; the device is the same one."""
    return LinkState(
        proof.port, proof.socket, proof.serial, tuple(proof.chain), proof.computer_settings, proof.device_settings,
        identity=tuple(proof.identity.items()),
    )  # fmt: skip


def changed(before: LinkState, now: LinkState) -> list[Changed]:
    """What differs, in the order of the line. What one of the two does not know is no difference."""
    found = [
        Changed(place, what, was, is_)
        for place, what, was, is_ in (
            ("port", "port", before.port, now.port), ("port", "socket", before.socket, now.socket),
            ("port", "adapter", before.adapter, now.adapter),
        )
        if was and is_ and was != is_
    ]  # fmt: skip
    for number, (was, is_) in enumerate(zip_longest(before.chain, now.chain, fillvalue=""), start=1):
        if was != is_:
            found.append(Changed(f"part:{number}", "cable or adapter", was or "nothing", is_ or "nothing"))
    for place, what, was, is_ in (
        ("settings", "settings of the computer", before.computer_settings, now.computer_settings),
        ("settings", "settings of the device", before.device_settings, now.device_settings),
        ("settings", "end of a line", before.end, now.end), ("device", "device", before.device, now.device),
    ):  # fmt: skip
        if was and is_ and was != is_:
            found.append(Changed(place, what, was, is_))
    then, told = dict(before.identity), dict(now.identity)
    found += [Changed("device", name, then[name], told[name]) for name in then if name in told and told[name] != then[name]]
    return found


def in_words(differences: list[Changed]) -> str:
    """A sentence; empty where nothing differs."""
    if not differences:
        return ""
    told = ", ".join(f"{one.what} {one.now} in place of {one.before}" for one in differences)
    return f"Since it last worked: {told}."
