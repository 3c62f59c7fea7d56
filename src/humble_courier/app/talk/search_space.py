"""A search as a picture: what there is to try, what is excluded, what is left; and in words what each port showed."""

from dataclasses import dataclass

from humble_courier.procedures.device_search.found import SearchEnd
from humble_courier.procedures.device_search.plan import Space, Trial
from humble_courier.procedures.device_search.probes import ALONE
from humble_courier.procedures.device_search.several import Searches
from humble_courier.protocols.registry import all_specs, spec_named

ENDED = {
    SearchEnd.FOUND: "found",
    SearchEnd.ABSENT: "there is no such port",
    SearchEnd.REFUSED: "cannot be opened",
    SearchEnd.SILENT: "opens, and nothing answers",
    SearchEnd.GARBLED: "something speaks, garbled",
    SearchEnd.STOPPED: "silent, and nothing was asked",
}


@dataclass(frozen=True)
class SpaceCell:
    """Trials of one rate and one way of asking: belief at the begin, what is left, whether asked now or found."""

    rate: int
    row: str
    prior: float
    left: float
    now: bool = False
    found: bool = False


def rows_of(trial: Trial) -> dict[str, float]:
    """The ways of asking, in words, with the belief in each."""
    rows = {spec_named(trial.bus.protocol).name: trial.unit_prior} if trial.units else {}
    if trial.frames:
        rows[text_row(trial.frames[0])] = trial.text_prior
    return rows


def text_row(frame: str) -> str:
    """How lines of text of some frame are asked: most frames by one opening."""
    return f"text, {frame}" if frame in ALONE else "text, 7 or 8 bits"


def cells(whole: list[Space], search: Searches | None) -> tuple[SpaceCell, ...]:
    """The space as it stands; `whole` as it was at the begin."""
    before = _sums([trial for one in whole for trial in one.trials])
    if search is None:
        return tuple(SpaceCell(rate, row, prior, prior) for (rate, row), prior in before.items())
    left = _sums([trial for one in search.spaces.values() for trial in one.trials])
    missing = len(whole) - len(search.spaces)
    rest = {key: value * missing / max(1, len(whole)) for key, value in before.items()}
    now = {step.settings.rate for step in search.now} if search.found is None else set()
    found = search.found
    made = []
    for (rate, row), prior in before.items():
        here = found is not None and found.settings.rate == rate and _reaches(row, str(found.settings.frame), found.protocol)
        asked = rate in now and left.get((rate, row), 0.0) < prior and found is None
        made.append(SpaceCell(rate, row, prior, left.get((rate, row), 0.0) + rest[(rate, row)], asked, here))
    return tuple(made)


def _reaches(row: str, frame: str, protocol: str) -> bool:
    spec = all_specs().get(protocol)
    if spec is not None and spec.probe is not None and spec.probe.addressed is not None:
        return row == spec.name
    return row == text_row(frame)


def _sums(trials: list[Trial]) -> dict[tuple[int, str], float]:
    sums: dict[tuple[int, str], float] = {}
    for trial in trials:
        for row, prior in rows_of(trial).items():
            sums[(trial.rate, row)] = sums.get((trial.rate, row), 0.0) + prior
    return sums


def _doing(search: Searches) -> str:
    """What it does at this moment, in a sentence."""
    steps = search.now
    if not steps:
        return ""
    more = f" and {len(steps) - 1} more ports" if len(steps) > 1 else ""
    return f"Now {steps[0].settings.spoken}{more}: {steps[0].action}. "


def counted(number: int, what: str) -> str:
    """A number with its word."""
    return f"{number} {what}" if number == 1 else f"{number} {what}s"


def spoken(seconds: float) -> str:
    """A time for people."""
    return (
        f"{seconds:.0f} s" if seconds < 120 else f"{seconds / 60:.0f} min" if seconds < 7200 else f"{seconds / 3600:.1f} h"
    )


def told(search: Searches, running: bool) -> tuple[str, str]:
    """Headline and reason."""
    found = search.found
    if found is not None:
        unit = f", unit {found.unit}" if found.unit is not None else ""
        ends = f", ends with {found.end}" if found.end else ""
        also = f" As good for any receiver: {', '.join(found.equivalent)}." if found.equivalent else ""
        seconds = sum(one.seconds for one in search.tried)
        return (
            f"Found: {found.settings.spoken}{unit}{ends}",
            f"It says “{found.identity}”. {counted(len(search.tried), 'trial')} in {seconds:.0f} s.{also}",
        )
    if running:
        return (
            f"Searching: {1 - search.left:.0%} excluded",
            f"{_doing(search)}{counted(len(search.tried), 'trial')} so far; nine in ten devices within "
            f"{spoken(search.most_s)}, at most {spoken(search.seconds_left)} left.",
        )
    if not search.ends:
        return "The search was stopped", f"{search.left:.0%} is not excluded yet; it goes on where it was."
    if all(end is SearchEnd.STOPPED for end, _ in search.ends.values()):
        return "Nothing speaks by itself", "Nothing was asked yet. Allow sending for this search, and it asks."
    words = [f"{address.partition('?')[0]}: {ENDED[end]}" for address, (end, _) in search.ends.items()]
    return "Not found", f"{'; '.join(words)}. {counted(len(search.tried), 'trial')}."
