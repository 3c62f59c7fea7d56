"""Names of what the window shows: the stages, their pages, the places of the line. Light: loaded before the rest."""

from dataclasses import dataclass
from enum import StrEnum

from humble_courier.domain.facts import State
from humble_courier.domain.hardware import Gender


class Stage(StrEnum):
    """The stages of a link, which places on the line open, and those that are not one link."""

    PORT = "port"
    WIRE = "wire"
    SETTINGS = "settings"
    PREPARE = "prepare"
    TALK = "talk"
    DIAGNOSE = "diagnose"
    TODAY = "today"
    NEW_LINK = "new"
    KIT = "kit"
    RECORDS = "records"
    DEVICES = "devices"
    PREFERENCES = "preferences"


class WirePage(StrEnum):
    """What one does about the wiring."""

    FOLLOW = "follow"
    CABLE = "cable"
    PORT = "port"
    CHOOSE = "choose"
    LOAD = "load"
    BUILD = "build"


class SettingsPage(StrEnum):
    """What one does about the settings."""

    SEE = "see"
    COMPARE = "compare"
    SWITCHES = "switches"
    READ = "read"
    TIME = "time"
    ADDRESS = "address"


class TalkPage(StrEnum):
    """What one does about the words."""

    LISTEN = "listen"
    FIND = "find"
    PROVE = "prove"
    PLAY = "play"
    VISA = "visa"
    KEEP = "keep"


class Drawn(StrEnum):
    """How a place is drawn on the line."""

    BOX = "box"
    ADAPTER = "adapter"
    JOINT = "joint"
    CABLE = "cable"
    DEVICE = "device"
    SPEECH = "speech"
    SETTINGS = "settings"


@dataclass(frozen=True)
class Place:
    """One place: `word` is the state in a word or two."""

    id: str
    drawn: Drawn
    title: str
    subtitle: str
    state: State
    word: str
    stage: Stage
    genders: tuple[Gender, Gender] | None = None


def place_of(stage: Stage, found: list[Place]) -> str:
    """The place that is meant where a stage is named: for the wiring the first cable, else the first place that opens it."""
    here = [place for place in found if place.stage is stage]
    cable = next((place for place in here if place.drawn is Drawn.CABLE), None)
    port = next((place for place in here if place.id == "port"), None)
    return (cable or port or here[0]).id
