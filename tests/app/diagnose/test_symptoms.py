"""Words of a technician, and what they mean."""

import pytest

from humble_courier.app.diagnose.symptoms import symptoms
from humble_courier.catalog.load import Catalog

CATALOG = Catalog()
CHECKS, USUAL = CATALOG.checks, CATALOG.usual_words


@pytest.mark.parametrize(
    ("words", "check", "outcome"),
    [
        ("no LED is lit, all dark", "power-lamp", "dark"),
        ("garbage comes when I ask", "ask", "garbled"),
        ("somebody holds the port", "open", "held"),
        ("ignition is off", "key", "off"),
        ("one plug was loose", "seated", "loose"),
        ("the DIP switches differ from the settings", "read-switches", "differ"),
        ("the sending lamp of the adapter flickers", "adapter-lamp", "lit"),
        ("a virtual machine is running", "virtual-machine", "running"),
        ("fuse has gone", "fuse-whole", "blown"),
        ("the cable: a conductor is broken", "meter-cable", "broken"),
    ],
)
def test_what_is_meant_is_among_what_is_offered(words: str, check: str, outcome: str) -> None:
    assert (check, outcome) in [(one.check, one.outcome) for one in symptoms(words, CHECKS, USUAL)[:3]]


@pytest.mark.parametrize("words", ["", "  ", "qwertz", "the", "\x00"])
def test_words_that_mean_nothing_offer_nothing(words: str) -> None:
    assert symptoms(words, CHECKS, USUAL) == []
