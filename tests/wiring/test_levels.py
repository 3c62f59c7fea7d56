"""Which family hears which, against what data sheets and handbooks say (common practice where no standard is named)."""

import pytest

from humble_courier.catalog.load import Catalog
from humble_courier.domain.signals import Level, Signal
from humble_courier.wiring.levels import LevelFit, fit, leg, survives

LEVELS = Catalog().levels
SIGNALS = [
    Level.RS232,
    Level.RS422,
    Level.RS485,
    Level.TTL_5V,
    Level.CMOS_3V3,
    Level.CMOS_1V8,
    Level.CAN,
    Level.J1708,
    Level.K_LINE,
]


@pytest.mark.parametrize("level", SIGNALS)
def test_each_family_hears_itself(level: Level) -> None:
    assert fit(LEVELS, level, level) is LevelFit.GOOD
    assert survives(LEVELS, level, level)


@pytest.mark.parametrize(
    ("driver", "receiver", "expected"),
    [
        (Level.CMOS_3V3, Level.TTL_5V, LevelFit.GOOD),  # LVTTL drives TTL thresholds of 0.8 and 2.0 V (JESD8C)
        (Level.TTL_5V, Level.CMOS_3V3, LevelFit.DAMAGE),
        (Level.CMOS_1V8, Level.CMOS_3V3, LevelFit.MISMATCH),
        (Level.CMOS_3V3, Level.CMOS_1V8, LevelFit.DAMAGE),
        (Level.RS232, Level.CMOS_3V3, LevelFit.DAMAGE),
        (Level.RS232, Level.TTL_5V, LevelFit.DAMAGE),
        (Level.TTL_5V, Level.RS232, LevelFit.MISMATCH),
        (Level.RS422, Level.RS485, LevelFit.GOOD),  # TIA-485-A receivers take TIA-422-B drivers
        (Level.RS485, Level.RS422, LevelFit.GOOD),
        (Level.RS232, Level.RS485, LevelFit.DAMAGE),  # 15 V against −7 to 12 V
        (Level.RS485, Level.RS232, LevelFit.MISMATCH),
        (Level.CAN, Level.RS485, LevelFit.MISMATCH),
        (Level.K_LINE, Level.TTL_5V, LevelFit.DAMAGE),
        (Level.POWER_12V, Level.RS232, LevelFit.DAMAGE),  # 35 V for a moment (ISO 16750-2) against 25 V (TIA-232-F)
        (Level.POWER_5V, Level.RS232, LevelFit.MISMATCH),
    ],
)
def test_one_family_on_another(driver: Level, receiver: Level, expected: LevelFit) -> None:
    assert fit(LEVELS, driver, receiver) is expected


@pytest.mark.parametrize(
    ("supply", "contact", "stands"),
    [
        (Level.POWER_5V, Level.RS232, True),
        (Level.POWER_5V, Level.TTL_5V, True),
        (Level.POWER_5V, Level.CMOS_3V3, False),
        (Level.POWER_12V, Level.TTL_5V, False),
        (Level.POWER_12V, Level.K_LINE, True),
        (Level.POWER_3V3, Level.GROUND, False),
        (Level.POWER_12V, Level.POWER_5V, False),
    ],
)
def test_supplies(supply: Level, contact: Level, stands: bool) -> None:
    assert survives(LEVELS, contact, supply) is stands


@pytest.mark.parametrize(
    ("text", "expected"),
    [("A both rs485", "A"), ("D+ both rs485", "B"), ("TXB out rs422", "B"), ("CANL both can", "A"), ("CANH both can", "B"),
     ("J1708P both j1708", "B"), ("TXD out rs232", None)],
)  # fmt: skip
def test_wires_of_a_pair(text: str, expected: str | None) -> None:
    assert leg(LEVELS, Signal.parse(text)) == expected
