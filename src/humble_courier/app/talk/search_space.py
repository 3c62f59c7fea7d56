"""A search as a picture: what there is to try, what is excluded, what is left; and in words what each port showed."""

from dataclasses import dataclass

from humble_courier.procedures.device_search.search import DeviceSearch, SearchEnd
from humble_courier.procedures.device_search.trials import Space, Trial
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


def row_of(trial: Trial) -> str:
    """The way of asking, in words."""
    if trial.words.asks is not None:
        return f"{spec_named(trial.words.protocol).name} {trial.frames[0]}"
    return "7 and 8 bits, any end" if len(trial.frames) > 1 else f"{trial.frames[0]}, any end"


def cells(whole: list[Space], search: DeviceSearch | None) -> tuple[SpaceCell, ...]:
    """The space as it stands; `whole` as it was at the begin."""
    before = _sums([trial for one in whole for trial in one.trials])
    if search is None:
        return tuple(SpaceCell(rate, row, prior, prior) for (rate, row), prior in before.items())
    left = _sums([trial for one in search.spaces.values() for trial in one.trials])
    missing = len(whole) - len(search.spaces)
    rest = {key: value * missing / max(1, len(whole)) for key, value in before.items()}
    now = search.tried[-1].settings.rate if search.tried and search.found is None else None
    found = search.found
    made = []
    for (rate, row), prior in before.items():
        here = found is not None and found.settings.rate == rate and _reaches(row, str(found.settings.frame), found.protocol)
        asked = rate == now and left.get((rate, row), 0.0) < prior and found is None
        made.append(SpaceCell(rate, row, prior, left.get((rate, row), 0.0) + rest[(rate, row)], asked, here))
    return tuple(made)


def _reaches(row: str, frame: str, protocol: str) -> bool:
    spec = all_specs().get(protocol)
    if spec is not None and spec.probe is not None and spec.probe.addressed is not None:
        return row == f"{spec.name} {frame}"
    return row.startswith("7 and 8") if frame[1] == "N" or frame[0] == "7" else row.startswith(frame)


def _sums(trials: list[Trial]) -> dict[tuple[int, str], float]:
    sums: dict[tuple[int, str], float] = {}
    for trial in trials:
        key = (trial.step.settings.rate, row_of(trial))
        sums[key] = sums.get(key, 0.0) + trial.prior
    return sums


def counted(number: int, what: str) -> str:
    """A number with its word."""
    return f"{number} {what}" if number == 1 else f"{number} {what}s"


def spoken(seconds: float) -> str:
    """A time for people."""
    return (
        f"{seconds:.0f} s" if seconds < 120 else f"{seconds / 60:.0f} min" if seconds < 7200 else f"{seconds / 3600:.1f} h"
    )


def told(search: DeviceSearch, running: bool) -> tuple[str, str]:
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
            f"{counted(len(search.tried), 'trial')}; at most {spoken(search.seconds_left)} left.",
        )
    if not search.ends:
        return "The search was stopped", f"{search.left:.0%} is not excluded yet; it goes on where it was."
    if all(end is SearchEnd.STOPPED for end, _ in search.ends.values()):
        return "Nothing speaks by itself", "Nothing was asked yet. Allow sending for this search, and it asks."
    words = [f"{address.partition('?')[0]}: {ENDED[end]}" for address, (end, _) in search.ends.items()]
    return "Not found", f"{'; '.join(words)}. {counted(len(search.tried), 'trial')}."
