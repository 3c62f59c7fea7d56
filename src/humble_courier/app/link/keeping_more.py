"""Further changes of a sheet in the making: where settings are set, switches, revisions, ports, program and adapters.

Each gives a new state of the draft, as those in `keeping` do. What is known is read off the draft itself: a switch bank
grows by one line of its table for each position that was drawn, a revision takes over how the link is set now.
"""

from dataclasses import replace
from typing import Any, get_args

import msgspec

from humble_courier.app.devices.draft import id_of
from humble_courier.app.link.keeping import Draft
from humble_courier.documents.base import ConnectorModel
from humble_courier.documents.device import (
    Codes,
    DevicePort,
    ForbiddenSocket,
    KnownAdapter,
    SetIn,
    SwitchBank,
    UsualProgram,
    Variant,
)
from humble_courier.domain.settings import Frame, Settings
from humble_courier.errors import BadInput

SETTINGS = ("rate", "frame", "address", "handshake")
KINDS = ("fixed", "jumper", "switches", "menu", "stored", "firmware")
CODES: tuple[Codes, ...] = get_args(Codes)
MOST_SWITCHES = 16


def with_set_in(now: Draft, what: str, kind: str, how: str) -> Draft:
    """Where one of the settings is set, and how; an empty `how` takes it away. Raises BadInput."""
    if what not in SETTINGS or kind not in KINDS:
        raise BadInput(f"{what} by {kind}: expected one of {', '.join(SETTINGS)} by one of {', '.join(KINDS)}")
    places = {str(name): place for name, place in now.base.port.set_in.items() if name != what}
    if how.strip():
        bank = now.base.banks[0].id if kind == "switches" and now.base.banks else None
        places[what] = msgspec.convert({"kind": kind, "how": how.strip(), "bank": bank}, SetIn)
    return _port(now, set_in=places)


def with_position(now: Draft, where: str, codes: str, positions: str, value: str) -> Draft:
    """What a bank at `where` says in a position (`0110`, switch 1 first). Raises BadInput for what cannot be."""
    if codes not in CODES:
        raise BadInput(f"a bank codes one of {', '.join(CODES)}")
    if not positions or set(positions) - {"0", "1"} or len(positions) > MOST_SWITCHES:
        raise BadInput(f"draw from 1 to {MOST_SWITCHES} switches first")
    said = _meant(codes, value)
    old = next((bank for bank in now.base.banks if bank.where == where.strip()), None)
    if old is not None and old.width != len(positions):
        raise BadInput(f"the bank {where} has {old.width} switches: draw as many, or say where the other one is")
    if not where.strip():
        raise BadInput("say where the bank is, as in: behind the lid, left of the battery")
    table = {**(old.table if old is not None else {}), positions: said}
    bank_id = old.id if old is not None else _fresh("S1", {one.id for one in now.base.banks})
    bank = msgspec.convert(
        {"id": bank_id, "where": where.strip(), "codes": codes, "width": len(positions), "table": table}, SwitchBank
    )
    others = [one for one in now.base.banks if one.id != bank_id]
    made = _base(now, banks=[*others, bank])
    if codes in SETTINGS and codes not in made.base.port.set_in:
        place = SetIn(kind="switches", how=f"switches {where.strip()}", bank=bank_id)
        made = _port(made, set_in={**made.base.port.set_in, codes: place})
    return made


def _meant(codes: str, value: str) -> str:
    """What a position means, as the bank codes it."""
    text = value.strip()
    if codes == "settings":
        return str(Settings.parse(text))
    if codes == "frame":
        return str(Frame.parse(text))
    if not text.isdigit():
        raise BadInput(f"“{value}”: the {codes} is a whole number")
    return text


def without_bank(now: Draft, bank: str) -> Draft:
    """A bank that is none after all, with what was said to be set by it."""
    places = {name: place for name, place in now.base.port.set_in.items() if place.bank != bank}
    return _port(_base(now, banks=[one for one in now.base.banks if one.id != bank]), set_in=places)


def with_revision(now: Draft, tell: str, edition: str) -> Draft:
    """Another revision that is told by `tell`, set as the link is now. Raises BadInput for an empty or a known one."""
    if not tell.strip():
        raise BadInput("say how this revision is told, as in: the plate says revision B")
    if any(one.tell == tell.strip() for one in now.base.variants):
        raise BadInput("a revision is told by these words already")
    made = Variant(
        id=_fresh(id_of(tell)[:20], {one.id for one in now.base.variants}), tell=tell.strip(),
        edition=edition.strip() or now.base.edition, settings=str(now.learnt.settings), set_by="as it was found",
    )  # fmt: skip
    return _base(now, variants=[*now.base.variants, made])


def without_revision(now: Draft, id_: str) -> Draft:
    """One that is none after all."""
    return _base(now, variants=[one for one in now.base.variants if one.id != id_])


def with_other_port(now: Draft, name: str, mark: str, connector: tuple[str, int, str], protocol: str) -> Draft:
    """A further port: what it is called, what stands beside it, family, contacts and gender. Raises BadInput."""
    if not name.strip():
        raise BadInput("say what this port is called, as in: Bus, on its lower side")
    family, contacts, gender = connector
    ids = {one.id for one in (now.base.port, *now.base.other_ports)}
    port = DevicePort(
        id=_fresh(id_of(name)[:20], ids), name=name.strip(), mark=mark.strip() or "as seen",
        connector=msgspec.convert({"family": family, "contacts": contacts, "gender": gender}, ConnectorModel), signals={},
        settings=str(now.learnt.settings), set_by="not known yet", protocol=protocol or "text",
    )  # fmt: skip
    return _base(now, other_ports=[*now.base.other_ports, port])


def in_use(now: Draft, id_: str) -> Draft:
    """The port that the link goes to is another one of the device's."""
    ports = [now.base.port, *now.base.other_ports]
    chosen = next((port for port in ports if port.id == id_), None)
    if chosen is None:
        raise BadInput(f"the sheet has no port “{id_}”")
    return _base(now, port=chosen, other_ports=[port for port in ports if port.id != id_])


def with_program(now: Draft, systems: str, bits: str, highest_port: str, settings: str) -> Draft:
    """What the device's usual program wants; each may be empty. Raises BadInput."""
    values: dict[str, Any] = {
        "systems": [one.strip() for one in systems.split(",") if one.strip()], "bits": _number(bits, "bits"),
        "highest_port": _number(highest_port, "highest port"),
        "settings": str(Settings.parse(settings)) if settings.strip() else "",
        "exclusive": now.base.program.exclusive, "note": now.base.program.note,
    }  # fmt: skip
    try:
        return _base(now, program=msgspec.convert(values, UsualProgram))
    except msgspec.ValidationError as error:
        raise BadInput(f"this cannot be what a program wants: {error}") from None


def with_adapter(now: Draft, module: str, works: bool, note: str = "") -> Draft:
    """An adapter, by the kernel module that claims it, that works with the device or does not. Raises BadInput."""
    if not module.strip():
        raise BadInput("say which kernel module claims the adapter, as the port's page shows it")
    others = [one for one in now.base.adapters if one.module != module.strip()]
    return _base(now, adapters=[*others, KnownAdapter(module=module.strip(), works=works, note=note.strip())])


def with_forbidden(now: Draft, what: str, why: str) -> Draft:
    """A socket, or a thing in it, that must not be used, and why. Raises BadInput where one is missing."""
    if not what.strip() or not why.strip():
        raise BadInput("say what must not be used, and why: both stand beside the act")
    others = [one for one in now.base.forbidden if one.what != what.strip()]
    return _base(now, forbidden=[*others, ForbiddenSocket(what=what.strip(), why=why.strip())])


def _number(text: str, what: str) -> int | None:
    if not text.strip():
        return None
    if not text.strip().isdigit():
        raise BadInput(f"{what} “{text}”: expected a whole number")
    return int(text)


def _fresh(id_: str, taken: set[str]) -> str:
    made, number = id_, 2
    while made in taken:
        made, number = f"{id_}-{number}", number + 1
    return made


def _base(now: Draft, **changed: Any) -> Draft:
    return replace(now, base=msgspec.structs.replace(now.base, **changed))


def _port(now: Draft, **changed: Any) -> Draft:
    return _base(now, port=msgspec.structs.replace(now.base.port, **changed))
