"""The strict, line-numbered YAML loader that data files and the open documents share.

Unknown keys, doubled keys and wrong types are refused with the file, the line and what was expected. PyYAML's C parser
does the reading (a pure Python parser would take longer than the rest of a command); only the scalars of YAML 1.2's
core schema are resolved, so that `NO`, `on` and `12:30` stay the words they are.

What is handed in may be hostile. That parser calls itself for each level of nesting, and sixty thousand brackets end the
process: so a text that could nest deeply, or hold very much, is gone through event by event first, which takes no depth.
Aliases are followed, but what they multiply to is counted.
"""

import re
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, TypeVar

import msgspec
import yaml

from humble_courier.documents.files import read_whole
from humble_courier.errors import BadInput

T = TypeVar("T")
LARGEST_DOCUMENT = 4_000_000  # bytes; the largest hand-written document is a thousand times smaller
DEEPEST, MOST_ENTRIES = 40, 200_000  # levels and entries; a kit of 5 000 parts has 20 000 entries on four levels
FEW_BRACKETS, FEW_ENDS = 1_000, 50_000  # of openers, of commas and lines: fewer can neither nest nor hold too much
_DEEP_LINE = re.compile(r"^[ \t?:-]{200,}", re.MULTILINE)  # a block nests by indentation, or by marks in one line
LONGEST_NUMBER = 20  # digits; 64 bits have 20

_SCALARS: list[tuple[str, re.Pattern[str], Callable[[str], Any]]] = [
    ("tag:yaml.org,2002:null", re.compile(r"~|null|Null|NULL|"), lambda _: None),
    ("tag:yaml.org,2002:bool", re.compile(r"true|True|TRUE|false|False|FALSE"), lambda text: text.lower() == "true"),
    ("tag:yaml.org,2002:int", re.compile(r"[-+]?[0-9]+"), int),
    ("tag:yaml.org,2002:int", re.compile(r"0x[0-9a-fA-F]+"), lambda text: int(text, 16)),
    ("tag:yaml.org,2002:float", re.compile(r"[-+]?(\.[0-9]+|[0-9]+(\.[0-9]*)?)([eE][-+]?[0-9]+)?"), float),
]


_NULLS = ("~", "null", "Null", "NULL", "")
_NOT_TEXT = frozenset("~nNtTfF+-.0123456789")  # with which something else than a word may begin


class _Nodes(yaml.CSafeLoader):
    """Composes nodes and resolves nothing: what a scalar is, is decided here, and asking the library costs half the time."""

    def resolve(self, kind: type[yaml.Node], value: Any, implicit: Any) -> str:  # noqa: ARG002 (the library hands them)
        """No tag but those that are written out."""
        return ""

    def descend_resolver(self, current_node: Any, current_index: Any) -> None:
        """Nothing depends on the place."""

    def ascend_resolver(self) -> None:
        """Nothing depends on the place."""


@dataclass
class Document:
    """Plain data of one YAML file together with the line on which each part of it stands."""

    name: str
    data: Any
    first_line: int = 1  # of the file, where only a part of it was read
    lines: dict[tuple[Any, ...], int] = field(default_factory=dict)

    def line(self, path: tuple[Any, ...]) -> int:
        """Line of `path`, or of the nearest part around it."""
        while path and path not in self.lines:
            path = path[:-1]
        return self.lines.get(path, self.first_line)

    def error(self, text: str, path: tuple[Any, ...] = ()) -> BadInput:
        """An error at the line on which `path` stands."""
        return BadInput(text, file=self.name, line=self.line(path))


def read_text(path: Path) -> str:
    """The file as text; raises BadInput where it cannot be read, is not UTF-8 or is far too large."""
    try:
        return read_whole(path, LARGEST_DOCUMENT).decode("utf-8")
    except UnicodeDecodeError as error:
        raise BadInput(f"not UTF-8 text (byte {error.start})", file=path) from None


def parse(text: str, name: str, first_line: int = 1) -> Document:
    """Read YAML text; `name` stands in error messages, `first_line` is where it begins in its file. Raises BadInput."""
    if len(text) > LARGEST_DOCUMENT:
        raise BadInput(f"larger than {LARGEST_DOCUMENT // 1_000_000} MB, so not a document of ours", file=name)
    try:
        if _may_be_too_much(text):
            _bounded(text, name, first_line)
        node = yaml.compose(text, Loader=_Nodes)
    except yaml.MarkedYAMLError as error:
        mark = error.problem_mark or error.context_mark
        raise BadInput(
            f"not valid YAML: {error.problem}", file=name, line=mark.line + first_line if mark else None
        ) from None
    except (yaml.YAMLError, ValueError) as error:
        # ReaderError: a character that YAML forbids
        raise BadInput(f"not valid YAML: {str(error).splitlines()[0]}", file=name) from None
    document = Document(name, None, first_line)
    document.data = _plain(node, document, (), frozenset()) if node else None
    return document


def parse_kind(text: str, name: str, kind: str) -> Document:
    """Read a document of one kind, as `link/1`, by its first line. Raises BadInput with the line of what is wrong."""
    document = parse(text, name)
    if not isinstance(document.data, dict):
        raise document.error(f"expected a document that begins with courier: {kind}")
    if document.data.get("courier") != kind:
        raise document.error(f"expected a document that begins with courier: {kind}", ("courier",))
    return document


def _may_be_too_much(text: str) -> bool:
    brackets = text.count("[") + text.count("{")
    return brackets > FEW_BRACKETS or text.count(",") + text.count("\n") > FEW_ENDS or _DEEP_LINE.search(text) is not None


def _bounded(text: str, name: str, first_line: int) -> None:
    """Go through the events of a text; raises BadInput where it is too deep or too long for a document."""
    depth = entries = 0
    for event in yaml.parse(text, Loader=yaml.CSafeLoader):
        if isinstance(event, yaml.CollectionStartEvent):
            depth += 1
        elif isinstance(event, yaml.CollectionEndEvent):
            depth -= 1
        entries += isinstance(event, yaml.NodeEvent)
        if depth > DEEPEST or entries > MOST_ENTRIES:
            mark = event.start_mark
            what = f"nested more than {DEEPEST} deep" if depth > DEEPEST else f"more than {MOST_ENTRIES:,} entries"
            raise BadInput(f"{what}: no document of ours is", file=name, line=mark.line + first_line if mark else None)


def _plain(node: yaml.Node, document: Document, path: tuple[Any, ...], above: frozenset[int]) -> Any:
    document.lines[path] = line = node.start_mark.line + document.first_line
    if id(node) in above:
        raise BadInput("an entry that contains itself", file=document.name, line=line)
    if len(path) > DEEPEST:
        raise BadInput(f"nested more than {DEEPEST} deep: no document of ours is", file=document.name, line=line)
    if len(document.lines) > MOST_ENTRIES:
        raise BadInput(f"more than {MOST_ENTRIES:,} entries, aliases counted", file=document.name, line=line)
    above |= {id(node)}
    if isinstance(node, yaml.ScalarNode):
        return _scalar(node, document, line)
    if isinstance(node, yaml.SequenceNode):
        return [_plain(item, document, (*path, i), above) for i, item in enumerate(node.value)]
    result: dict[Hashable, Any] = {}
    for key_node, value_node in node.value:
        if not isinstance(key_node, yaml.ScalarNode):
            raise BadInput(
                "a key that is not a single word", file=document.name, line=key_node.start_mark.line + document.first_line
            )
        key = str(key_node.value)
        if key in result:
            raise BadInput(f"“{key}” stands twice", file=document.name, line=key_node.start_mark.line + document.first_line)
        result[key] = _plain(value_node, document, (*path, key), above)
        document.lines[(*path, key)] = key_node.start_mark.line + document.first_line
    return result


def _scalar(node: yaml.ScalarNode, document: Document, line: int) -> Any:
    if node.tag and not node.tag.startswith("tag:yaml.org,2002:"):
        raise BadInput(f"tag “{node.tag}” is not used here", file=document.name, line=line)
    if node.style or (node.value and node.value[0] not in _NOT_TEXT):  # quoted: text, whatever it looks like
        return node.value
    for _tag, pattern, convert in _SCALARS:
        if pattern.fullmatch(node.value):
            value = convert(node.value) if len(node.value) <= LONGEST_NUMBER else None
            if (value is None and node.value not in _NULLS) or value in (float("inf"), float("-inf")):
                raise BadInput("a number of this size is not used here", file=document.name, line=line)
            return value
    return node.value


_AT = re.compile(r" - at `(key in )?(\$[^`]*)`$")
_STEP = re.compile(r"\.([^.\[]+)|\[(\d+|\.\.\.)\]")
_QUOTED = re.compile(r"`([^`]*)`")
_UNKNOWN = re.compile(r"Object contains unknown field `(.*?)`")
_MISSING = re.compile(r"Object missing required field `(.*?)`")
_SHORT = re.compile(r"Expected `array` of length >= (\d+)")


def convert(document: Document, kind: type[T], path: tuple[Any, ...] = ()) -> T:
    """Turn the part of `document` at `path` into `kind`; raises BadInput with the line and what was expected."""
    data = document.data
    for step in path:
        data = data[step]
    try:
        return msgspec.convert(data, kind, strict=True)
    except msgspec.ValidationError as error:
        text = str(error)
        where = _AT.search(text)
        inner = _steps(where[2]) if where else ()
        said = text[: where.start()] if where else text
        if unknown := _UNKNOWN.search(said):
            inner, said = (*inner, unknown[1]), f"unknown key “{unknown[1]}”{_known_keys(kind, inner)}"
        elif short := _SHORT.search(said):
            said = f"expected {short[1]} entries at least"
        elif missing := _MISSING.search(said):
            said = f"key “{missing[1]}” is missing"
        named = f"{'.'.join(str(step) for step in inner)}: " if inner and not unknown else ""
        raise document.error(named + _QUOTED.sub(r"“\1”", said), (*path, *inner)) from None


def _steps(text: str) -> tuple[Any, ...]:
    steps: list[Any] = []
    for name, index in _STEP.findall(text[1:]):
        if index == "...":
            break  # msgspec does not say which key of a mapping; the line of the mapping must do
        steps.append(name or int(index))
    return tuple(steps)


def _known_keys(kind: Any, inner: tuple[Any, ...]) -> str:
    if inner or not (isinstance(kind, type) and issubclass(kind, msgspec.Struct)):
        return ""
    return ": known are " + ", ".join(field.encode_name for field in msgspec.structs.fields(kind))
