"""Instruments behind other buses, by VISA: which libraries are on this machine, which one answers, what they see.

A vendor's library and PyVISA-py may stand side by side: only one of them is asked at a time, and which one is a choice.
Nothing is written to any instrument here but the query that is named beforehand.
"""

import warnings
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from humble_courier.domain.clock import Clock, SystemClock
from humble_courier.domain.received import Chunk
from humble_courier.errors import BadInput, MachineRefused, PeerError
from humble_courier.port.log import LineLog
from humble_courier.port.permit import Permit as Permit

if TYPE_CHECKING:
    from pyvisa import ResourceManager

WHERE = ("usr/lib", "usr/lib64", "usr/lib/x86_64-linux-gnu", "usr/lib/aarch64-linux-gnu", "usr/local/lib", "opt")
NAMES = ("lib*visa*.so*",)  # whatever a vendor calls it (VPP-4.3.2 names libvisa; from memory)
PY = "@py"
TYPES = ("ASRL", "GPIB", "TCPIP", "USB", "VXI", "PXI")  # VPP-4.3, interface types, from memory


@dataclass(frozen=True)
class Library:
    """A VISA library: how PyVISA is told to use it, where it is, whether it loads, and what it sees."""

    name: str
    where: str
    answers: bool
    why_not: str = ""
    resources: tuple[str, ...] = ()


def headline(found: "list[Library] | None") -> str:
    """The answer of the page: what was found; None while it is looked for."""
    if found is None:
        return "Looking for libraries and what each sees"
    if not found:
        return "Which library answers for which instrument?"
    seen = [name for one in found for name in one.resources]
    places, twice = len(set(seen)), sorted({name for name in seen if seen.count(name) > 1})
    answer = sum(one.answers for one in found)
    told = f"{answer} of {len(found)} libraries answer, and see {places} instruments or ports"
    return f"{told}; {twice[0]} is seen by two" if twice else told


def found_files(root: Path = Path("/")) -> list[Path]:
    """Files of vendors' libraries, each once, below `root`."""
    found: dict[Path, Path] = {}
    for folder in WHERE:
        for pattern in NAMES:
            for path in sorted((root / folder).glob(pattern)) if (root / folder).is_dir() else ():
                found.setdefault(path.resolve(), path)
    return list(found.values())


def libraries(root: Path = Path("/"), look: bool = True) -> list[Library]:
    """All libraries; with `look` each is asked what it sees, which may take seconds."""
    files = [(f"{path}@ivi", str(path)) for path in found_files(root)]
    return [_asked(name, where, look) for name, where in [*files, (PY, "PyVISA-py, part of this program")]]


def _asked(name: str, where: str, look: bool) -> Library:
    import pyvisa
    from pyvisa.errors import VisaIOError

    try:
        manager = pyvisa.ResourceManager(name)
    except (OSError, ValueError, pyvisa.errors.LibraryError) as error:
        return Library(name, where, False, str(error).splitlines()[0])
    try:
        return Library(name, where, True, "", _seen(manager) if look else ())
    except (VisaIOError, ValueError, OSError) as error:
        return Library(name, where, True, str(error).splitlines()[0])
    finally:
        manager.close()


def _seen(manager: "ResourceManager") -> tuple[str, ...]:
    """Resources of the published interface types; what a library says about optional parts of itself is not for here."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", UserWarning)
        return tuple(one for one in manager.list_resources("?*") if one.startswith(TYPES))


def bare_choice(found: Sequence[Library]) -> str:
    """What a program gets that does not say which library it wants."""
    vendors = [one for one in found if one.name != PY and one.answers]
    if not vendors:
        return "A program that names no library gets PyVISA-py, or an error where it insists on a vendor's."
    if len(vendors) == 1:
        return f"A program that names no library gets {vendors[0].where}."
    return f"{len(vendors)} libraries stand side by side; a program that names none gets the first: {vendors[0].where}."


def ask(
    permit: Permit, resource: str, query: str = "*IDN?", library: str = PY, timeout_ms: int = 2000,
    rate: int | None = None, log: LineLog | None = None, clock: Clock = SystemClock(),
) -> str:  # fmt: skip
    """Ask an instrument; changes nothing in it. Question and answer stand in the log, the question before it leaves.

    Raises NotArmed where the permit was taken back, BadInput, MachineRefused, or PeerError where it does not answer.
    """
    import pyvisa
    from pyvisa.errors import InvalidSession, VisaIOError

    from humble_courier.protocols.scpi import safe_query

    words = safe_query(query).decode("ascii").strip()
    permit.check()
    manager = pyvisa.ResourceManager(library)
    try:
        instrument = manager.open_resource(resource)
        instrument.timeout = timeout_ms
        instrument.read_termination, instrument.write_termination = "\n", "\n"  # type: ignore[attr-defined]
        if rate is not None:
            instrument.baud_rate = rate  # type: ignore[attr-defined]
        permit.check()  # opening takes its time
        if log is not None:
            log.begin(resource, f"VISA by {library}")
            log.said(clock.wall(), words.encode("ascii") + b"\n")
        answer = str(instrument.query(words))  # type: ignore[attr-defined]
        if log is not None:
            log.heard(clock.wall(), Chunk(answer.encode("latin-1", "replace"), {}))
        return answer.strip()
    except VisaIOError as error:
        if error.error_code == pyvisa.constants.StatusCode.error_timeout:
            raise PeerError(
                f"{resource} does not answer {words} within {timeout_ms} ms: settings, terminator, or address"
            ) from None
        raise MachineRefused(
            f"{resource} cannot be opened: {error.description}", "List the resources, and name one of them"
        ) from None
    except OSError as error:
        raise MachineRefused(
            f"{resource} cannot be opened: {error.strerror or error}", "Check that it is plugged in"
        ) from None
    except (ValueError, InvalidSession) as error:
        raise BadInput(f"resource “{resource}”: {error}") from None
    finally:
        manager.close()
        if log is not None:
            log.close()
