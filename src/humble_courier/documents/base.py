"""What all documents are made of: strict structures (unknown keys are refused), and the connectors that many write out.

Texts such as signals, conductors and settings stay texts here, so that the JSON Schema shows the format people write.
"""

from typing import Annotated, Literal

from msgspec import Meta, Struct

Text = Annotated[str, Meta(min_length=1)]
Count = Annotated[int, Meta(ge=1, le=200)]
EndWord = Literal["cr", "lf", "crlf", "lfcr", "none"]
GenderWord = Literal["plug", "socket", "either"]


class Strict(Struct, forbid_unknown_fields=True, frozen=True, omit_defaults=True):
    """Base of all: no unknown keys, no change after reading."""


class Sourced(Strict, frozen=True, kw_only=True):
    """An entry of a data file: where its facts come from, and whether the source was looked up."""

    id: Text
    source: Text
    from_memory: bool = False


class ConnectorModel(Strict, frozen=True):
    """A connector in a document."""

    family: Text
    contacts: Count
    gender: GenderWord
    fixing: Literal["none", "screws", "posts"] = "none"


class EndModel(ConnectorModel, frozen=True):
    """An end of a part; `signals` only where the part is active there. Family `lead`: loose conductors by colour."""

    signals: dict[str, Text] = {}
    supplies_loop: bool = False
