"""Shapes of the data files from which the next check is chosen: why a link does not work, and what can be looked at."""

from typing import Annotated, Literal

from msgspec import Meta

from humble_courier.documents.base import Sourced, Strict, Text

Place = Literal["program", "port", "adapter", "wire", "device-port", "device", "settings", "speech"]
Effect = Literal[
    "absent", "refused", "dead", "mute", "deaf", "garbled", "lossy", "part", "breaks", "late", "unheeded", "elsewhere"
]
Minutes = Annotated[float, Meta(gt=0, le=600)]
Share = Annotated[float, Meta(ge=0, le=1)]


class Mend(Strict, frozen=True):
    """What puts it right, how long that takes, and what has to be at hand. `caution`: an id of the catalog."""

    act: Text
    minutes: Minutes
    needs: list[Text] = []
    caution: str | None = None


class CauseEntry(Sourced, frozen=True, kw_only=True):
    """A cause. It can be where all tags of `when` hold; `weight` in parts, times `more[tag]` for each tag that holds.

    `effect`: what it does to the line; `fault`: what the simulated bench makes of it.
    """

    place: Place
    says: Text
    weight: Annotated[float, Meta(gt=0)]
    effect: Effect
    mend: Mend
    fault: str = ""
    when: list[Text] = []
    more: dict[str, float] = {}


class Under(Strict, frozen=True):
    """How likely the outcomes are under some causes, by id or by their effect; what is not named shares the rest."""

    gives: dict[str, Share]
    causes: list[Text] = []
    effects: list[Effect] = []


class WordsEntry(Sourced, frozen=True, kw_only=True):
    """Other words for the word that is its id."""

    words: Annotated[list[Text], Meta(min_length=1)]


Shows = Literal[
    "lamp-dark", "lamp-lit", "adapter-dark", "adapter-lit", "garbled", "echo", "breaks-off", "loose", "shaken", "programs"
]


class SymptomEntry(Sourced, frozen=True, kw_only=True):
    """Something that people see without being asked: an outcome of a check, with the picture that shows it."""

    says: Text
    check: Text
    outcome: Text
    shows: Shows


class CheckEntry(Sourced, frozen=True, kw_only=True):
    """A check: a question, and its closed set of outcomes with the words on their keys.

    `by`: the program alone, or a person; `sends`: what the program says for it, which wants a permit; `after`: checks one
    of which has to have brought something garbled; `moot`: outcomes of other checks after which this one tells nothing.
    `ends`: outcomes with which the link works.
    """

    place: Place
    ask: Text
    minutes: Minutes
    outcomes: Annotated[dict[str, Text], Meta(min_length=2)]
    otherwise: dict[str, Share]
    under: list[Under] = []
    by: Literal["program", "person"] = "person"
    sends: str = ""
    needs: list[Text] = []
    when: list[Text] = []
    after: list[Text] = []
    moot: dict[str, str] = {}
    ends: list[Text] = []
    caution: str | None = None
