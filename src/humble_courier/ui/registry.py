"""All stages in one list. A new stage is a folder under `stages` and an entry here; the window names none of them.

Desks are made when they are first opened, and their modules loaded then: the window is shown before.
"""

from collections.abc import Callable
from dataclasses import dataclass

from humble_courier.app.link.stages import Stage
from humble_courier.ui.desk import Desk
from humble_courier.ui.workplace import Workplace


@dataclass(frozen=True)
class StageEntry:
    """A stage with what makes its desk; `rail` and `key` where it is one of the places that are not one link."""

    stage: Stage
    make: Callable[[Workplace], Desk]
    rail: str = ""
    key: str = ""


def _port(work: Workplace) -> Desk:
    from humble_courier.ui.stages.port.desk import PortDesk

    return PortDesk(work)


def _wire(work: Workplace) -> Desk:
    from humble_courier.ui.stages.wire.desk import WireDesk

    return WireDesk(work)


def _settings(work: Workplace) -> Desk:
    from humble_courier.ui.stages.settings.desk import SettingsDesk

    return SettingsDesk(work)


def _prepare(work: Workplace) -> Desk:
    from humble_courier.ui.stages.prepare.desk import PrepareDesk

    return PrepareDesk(work)


def _talk(work: Workplace) -> Desk:
    from humble_courier.ui.stages.talk.desk import TalkDesk

    return TalkDesk(work)


def _diagnose(work: Workplace) -> Desk:
    from humble_courier.ui.stages.diagnose.desk import DiagnoseDesk

    return DiagnoseDesk(work)


def _today(work: Workplace) -> Desk:
    from humble_courier.ui.stages.today.desk import TodayDesk

    return TodayDesk(work)


def _new_link(work: Workplace) -> Desk:
    from humble_courier.ui.stages.new_link.desk import NewLinkDesk

    return NewLinkDesk(work)


def _kit(work: Workplace) -> Desk:
    from humble_courier.ui.stages.kit.desk import KitDesk

    return KitDesk(work)


def _records(work: Workplace) -> Desk:
    from humble_courier.ui.stages.records.desk import RecordsDesk

    return RecordsDesk(work)


def _devices(work: Workplace) -> Desk:
    from humble_courier.ui.stages.devices.desk import DevicesDesk

    return DevicesDesk(work)


def _preferences(work: Workplace) -> Desk:
    from humble_courier.ui.stages.preferences.desk import PreferencesDesk

    return PreferencesDesk(work)


STAGES = (
    StageEntry(Stage.PORT, _port),
    StageEntry(Stage.WIRE, _wire),
    StageEntry(Stage.SETTINGS, _settings),
    StageEntry(Stage.PREPARE, _prepare),
    StageEntry(Stage.TALK, _talk),
    StageEntry(Stage.DIAGNOSE, _diagnose, "Diagnose", "F11"),
    StageEntry(Stage.TODAY, _today, "Today", "Alt+T"),
    StageEntry(Stage.NEW_LINK, _new_link, "New link", "F7"),
    StageEntry(Stage.KIT, _kit, "Kit", "F8"),
    StageEntry(Stage.RECORDS, _records, "Records", "F9"),
    StageEntry(Stage.DEVICES, _devices, "Devices", "F10"),
    StageEntry(Stage.PREFERENCES, _preferences, "Choices", "Alt+C"),
)
