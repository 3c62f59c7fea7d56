"""What a person has seen, in words of their own, matched to checks with their outcomes.

Words are compared by their beginnings (`lamps` meets `lamp`); rarer words weigh more, as in any index (Spärck Jones, "A
statistical interpretation of term specificity", 1972). Usual words for the same thing are data (`words.yaml`).
"""

import re
from collections import Counter
from collections.abc import Collection, Mapping
from dataclasses import dataclass
from math import log

from humble_courier.catalog.diagnose_entries import CheckEntry, SymptomEntry

SHORTEST, STEM = 3, 5  # letters of a word that counts, and by which it is compared
MOST, LEAST = 5, 1.2  # matches that are offered, and the weight from which one is
IN_OUTCOME = 2.0  # times as much as in the question: the outcome is what was seen
COMMON = {"the", "and", "that", "does", "not", "what", "are", "with", "for", "its", "this", "there", "when", "was", "has"}


@dataclass(frozen=True)
class Symptom:
    """A check with an outcome that may be meant; `says`: both in words."""

    check: str
    outcome: str
    says: str


@dataclass(frozen=True)
class Pictured:
    """A symptom with its picture. `told`: what it is taken for, in words."""

    check: str
    outcome: str
    says: str
    shows: str
    told: str


def pictured(entries: Mapping[str, SymptomEntry], checks: Mapping[str, CheckEntry], done: Collection[str]) -> list[Pictured]:
    """Symptoms that can be seen at a link with these checks, and are not known yet."""
    left = [one for one in entries.values() if one.check in checks and one.check not in done]
    told = {one.says: f"{checks[one.check].ask} {checks[one.check].outcomes[one.outcome]}" for one in left}
    return [Pictured(one.check, one.outcome, one.says, one.shows, told[one.says]) for one in left]


def symptoms(words: str, checks: Mapping[str, CheckEntry], usual: Mapping[str, str]) -> list[Symptom]:
    """What may be meant by these words, the likeliest first; empty where nothing fits. `usual`: words for other words."""
    wanted = _stems(words, usual)
    if not wanted:
        return []
    texts = {id_: _stems(f"{check.ask} {' '.join(check.outcomes.values())}") for id_, check in checks.items()}
    met = Counter(stem for stems in texts.values() for stem in stems)
    weights = {stem: log(1 + len(checks) / (1 + met[stem])) for stem in wanted}
    found = []
    for id_, check in checks.items():
        asked = _stems(check.ask)
        for outcome, says in check.outcomes.items():
            told = _stems(says)
            weight = sum(weights[s] * (IN_OUTCOME if s in told else 1.0 if s in asked else 0.0) for s in wanted)
            found.append((weight, Symptom(id_, outcome, f"{check.ask} {says[:1].upper()}{says[1:]}")))
    found.sort(key=lambda pair: -pair[0])
    return [symptom for weight, symptom in found[:MOST] if weight >= LEAST]


def _stems(text: str, usual: Mapping[str, str] = {}) -> set[str]:
    words = [usual.get(word, word) for word in re.findall(r"[a-z]+", text.lower())]
    return {word[:STEM] for word in words if len(word) >= SHORTEST and word not in COMMON}
