"""All that was seen at a link that does not work, for the maker's support: nothing of the machine that asks for help.

Left out are names of ports, adapters' serial numbers, folders and people; what is told of the computer is the kind of port.
"""

from dataclasses import dataclass

from humble_courier.app.diagnose.advice import Advice
from humble_courier.app.diagnose.diagnosis import Done
from humble_courier.catalog.links import Link
from humble_courier.domain.clock import minutes_in_words

CAUSES = 8  # that are named; the rest is unlikely


@dataclass(frozen=True)
class EvidenceSheet:
    """A title and its sections: each a heading with rows of what and value."""

    title: str
    sections: tuple[tuple[str, tuple[tuple[str, str], ...]], ...]


def evidence_sheet(link: Link, done: list[Done], advice: Advice) -> EvidenceSheet:
    """The sheet of a link."""
    settings = (("computer", link.computer_settings), ("device", link.device_settings))
    what = [("device", link.sheet.name if link.sheet is not None else link.device.name)]
    what += [("edition", link.sheet.edition)] if link.sheet is not None else []
    what += [(end, one.spoken) for end, one in settings if one is not None]
    what += [("between", " + ".join(part.name for part in link.parts) or "joined directly"), ("port", _kind(link))]
    seen = tuple((one.ask, f"{one.says} ({'the program saw it' if one.by_itself else 'seen by a person'})") for one in done)
    causes = tuple(
        (f"{one.probability:.0%}", f"{one.says}. Mend: {one.mend}, {minutes_in_words(one.minutes)}")
        for one in advice.causes[:CAUSES]
    )
    return EvidenceSheet(
        f"It does not work: {what[0][1]}",
        (("The link", tuple(what)), ("What was seen", seen), ("What it may be", causes)),
    )


def _kind(link: Link) -> str:
    address = link.address or ""
    if address.startswith("sim:"):
        return "simulated"
    if address.startswith(("socket://", "rfc2217://")):
        return "over a network"
    return "USB adapter" if link.parts and link.parts[0].kind == "usb-adapter" else "serial port"
