"""Holds the kernel's messages of `kernel_log.yaml` against its sources: each file and function that is named, and its words.

    python -m tools.kernel_messages linux-source-6.1       (how to get the sources: see tools/kernel_rates.py)

For each entry the longest run of plain words of its pattern must stand in one of the files, in its strings or its comments'
neighbourhood alike, and each function that is named must be in its file. Exit code 1 where something is missing.
"""

import re
import sys
from pathlib import Path

from humble_courier.catalog.load import Catalog

_NAMED = re.compile(r"(drivers/\S+\.c), (\w+)")
_PLAIN = re.compile(r"[A-Za-z' ]{6,}")


def words_of(pattern: str) -> str:
    """The longest run of plain words in a pattern, outside its groups of classes."""
    plain = re.sub(r"\(\?P<\w+>|\[[^\]]*\]|\\\\.", "\n", pattern)
    return max((run.strip() for run in _PLAIN.findall(plain)), key=len, default="")


def strings_of(text: str) -> str:
    """A source with the joints between its strings closed."""
    return re.sub(r'"\s*\n\s*"', "", text)


def missing(kernel: Path) -> list[str]:
    """What an entry names and the sources do not hold."""
    found = []
    for id_, entry in Catalog().log_lines.items():
        named = _NAMED.findall(entry.source)
        if not named:
            continue
        texts = [strings_of((kernel / file).read_text()) for file, _ in named]
        found += [f"{id_}: no {function} in {file}" for (file, function), text in zip(named, texts, strict=True)
                  if not re.search(rf"\b{function}\b", text)]  # fmt: skip
        words = words_of(entry.pattern)
        if words and not any(words in text for text in texts):
            found.append(f"{id_}: “{words}” stands in none of {', '.join(file for file, _ in named)}")
    return found


def main() -> None:
    """Compare, and say what is missing."""
    if len(sys.argv) != 2:
        sys.exit(__doc__)
    found = missing(Path(sys.argv[1]))
    print("\n".join(found) or "all entries stand in the sources")
    sys.exit(bool(found))


if __name__ == "__main__":
    main()
