"""Who of the units that were asked has answered: each that could be is asked again, alone.

Theory of operation. Units of a bus are asked one soon after the other, in a way that several frames read: what comes back
may be damaged, late, or the answer of somebody asked earlier. Any byte is a reaction. `UnitAsked` are kept for as long as a
unit may take; those are asked again with the plain request, in each frame that read the first one, the frame with parity
first, and waited for. Only a whole, undamaged answer counts. An exception that a gateway gives proves rate and frame, and
no unit: then all other units are asked there, with a longer wait.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from humble_courier.domain.settings import Frame, Settings
from humble_courier.procedures.device_search.found import Found
from humble_courier.procedures.device_search.plan import Words, reached
from humble_courier.procedures.steps import Outcome, Step

REMEMBERED_S = 0.2  # how long a unit may take for its answer, at most (common practice)
SILENCE_CHARACTERS = 3.5  # by which a request is known to be over (MODBUS over Serial Line V1.02, 2.5.1.1)
ALONE_S = 0.17  # waited for it when it is asked alone
BEHIND_S = 1.0  # a gateway waits for the unit behind it (common practice)
MOST_ASKED = 6  # units that are asked again for one reaction
REST_S = 0.05


@dataclass(frozen=True)
class UnitAsked:
    """One request: when its last byte had left (seconds of the search), to whom, and how the port was opened."""

    at: float
    unit: int
    opened: Settings

    @property
    def until(self) -> float:
        """When its answer has begun to arrive at the latest: silence ends the request, and a character must be whole."""
        return self.at + REMEMBERED_S + (SILENCE_CHARACTERS + 2) * self.opened.character_s


class Recall:
    """Asks again. `found` is set by an answer; `over` when nobody is left to ask; `damaged` tells that something came."""

    def __init__(self, address: str, bus: Words, asked: Sequence[UnitAsked], heard_at: float, data: bytes) -> None:
        assert bus.asks is not None, "only units are asked again"
        self._address, self._bus, self._asks = address, bus, bus.asks
        near = [one for one in asked if one.at <= heard_at <= one.until]
        near.sort(key=lambda one: (one.unit != (data[0] if data else 0), -one.at))
        del near[MOST_ASKED:]  # the others come in the second pass
        self._left = [
            (Settings(one.opened.rate, Frame.parse(frame)), one.unit)
            for one in near for frame in reached(self._asks, one.unit, one.opened.frame)
        ]  # fmt: skip
        self._left = list(dict.fromkeys(self._left))
        self._wait_s = ALONE_S
        self.found: Found | None = None
        self.gateway: Settings | None = None
        self.damaged = ""

    @property
    def over(self) -> bool:
        """Whether nobody is left to ask."""
        return self.found is not None or not self._left

    def next(self) -> Step:
        """The next request."""
        settings, unit = self._left[0]
        said = self._asks.request(unit)
        wait = self._wait_s + (len(said) + SILENCE_CHARACTERS + 2) * settings.character_s
        rest = REST_S + (SILENCE_CHARACTERS + 1) * settings.character_s  # what was asked last is over for everybody
        quiet = 0.02 + 4 * settings.character_s
        return Step(self._address, settings, said, wait, quiet_s=quiet, action=f"ask unit {unit} again", rest_s=rest)

    def done(self, outcome: Outcome, heard: bytes) -> None:
        """Take in what came."""
        settings, unit = self._left.pop(0)
        answered = None if outcome.doubtful else self._asks.answered(heard)
        if answered is None:
            if len(heard) > 2:
                self.damaged = f"unit {unit} at {settings}"
        elif self._asks.behind(heard):
            self._gateway(settings, unit)
        else:
            self.found = found(self._address, settings, self._bus, answered)

    def _gateway(self, settings: Settings, unit: int) -> None:
        """A gateway answers at these settings: from now on all units are asked there, and nowhere else."""
        if self.gateway is None:
            self.gateway, self._wait_s = settings, BEHIND_S
            self._left = [(settings, other) for other in range(1, 248) if other != unit]


def found(address: str, settings: Settings, bus: Words, unit: int) -> Found:
    """A unit that answered."""
    return Found(address, settings, bus.protocol, unit, f"unit {unit} answers")
