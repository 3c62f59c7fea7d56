"""Headline and reason of the Settings stage: do both ends agree?"""

from humble_courier.domain.settings import Settings


def settings_headline(ours: Settings | None, theirs: Settings | None) -> tuple[str, str]:
    """Do both ends agree?"""
    if ours is None or theirs is None:
        return "Settings of one end are not known", "Choose them below, read its switches, or judge what arrives."
    differ = ours.differences(theirs)
    if not differ:
        return f"Both ends agree: {ours.spoken}", "What the device sends arrives as it was sent."
    listed = differ[0] if len(differ) == 1 else f"{', '.join(differ[:-1])} and {differ[-1]}"
    return f"The two ends disagree: {listed}", _ratio(ours, theirs)


def _ratio(ours: Settings, theirs: Settings) -> str:
    ratio = ours.rate / theirs.rate
    if ratio == 1:
        return "The rate is right: bits are read where they stand, but taken for something else."
    if ratio > 1:
        return f"The computer looks {ratio:g} times as often as bits come: it reads each bit several times."
    return f"The computer looks only {ratio:.3g} times as often as bits come: it misses bits in between."
