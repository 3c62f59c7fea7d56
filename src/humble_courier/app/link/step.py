"""A recommended act: what it says, what it costs, what its button does."""

from dataclasses import dataclass
from enum import StrEnum

from humble_courier.app.link.stages import SettingsPage, Stage, TalkPage, WirePage
from humble_courier.documents.link import LinkModel
from humble_courier.domain.clock import minutes_in_words
from humble_courier.domain.settings import Settings
from humble_courier.domain.text import Terminator


class Action(StrEnum):
    """What the button of the next step does."""

    CHAIN = "chain"
    SETTINGS = "settings"
    CHOOSE_PORT = "choose-port"
    LISTEN = "listen"
    ARM = "arm"
    SAY = "say"
    TYPE = "type"
    BUILD = "build"
    SHOW_SETTINGS = "show-settings"
    KEEP_PROOF = "keep-proof"
    KEEP_DEVICE = "keep-device"
    PAPER = "paper"
    PREPARE = "prepare"
    MARK = "mark"
    AGAIN = "again"
    ASK_AGAIN = "ask-again"
    READ = "read"
    UNITS = "units"
    PLAY = "play"
    LOOK_PORT = "look-port"
    FIND = "find"
    DIAGNOSE = "diagnose"
    ADOPT = "adopt"
    WAIT = "wait"


@dataclass(frozen=True)
class NextStep:
    """`button`: what stands on it; `chain`, `settings`, `words`, `end` with the actions that take one.

    `stage` and `page`: where the work goes on; None stays where the person is. `chance` that it brings the proof nearer.
    """

    text: str
    minutes: float
    button: str
    action: Action
    chain: LinkModel | None = None
    settings: Settings | None = None
    words: str = ""
    end: Terminator | None = None
    stage: Stage | None = None
    page: WirePage | SettingsPage | TalkPage | None = None
    chance: float = 1.0

    @property
    def cost(self) -> str:
        """What it takes, in words."""
        return minutes_in_words(self.minutes)
