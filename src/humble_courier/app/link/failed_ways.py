"""What to do where something has failed: what the diagnosis says is worth most, at the place where it is done."""

from collections.abc import Mapping
from itertools import takewhile

from humble_courier.app.diagnose.advice import ActTold
from humble_courier.app.link.seen import LinkSeen
from humble_courier.app.link.stages import SettingsPage, Stage, TalkPage, WirePage
from humble_courier.app.link.step import Action, NextStep
from humble_courier.domain.text import Terminator

Page = WirePage | SettingsPage | TalkPage | None
USUAL_ENDS = (Terminator.CR, Terminator.LF, Terminator.CRLF)  # in the order in which they are met (common practice)
SEARCH_MINUTES = 2.0
# Checks that are done elsewhere than in Diagnose: what stands on the button, what it does, where.
ELSEWHERE: Mapping[str, tuple[str, Action, Stage, Page]] = {
    "device-search": ("Search for it", Action.FIND, Stage.TALK, TalkPage.FIND),
    "other-units": ("Search for it", Action.FIND, Stage.TALK, TalkPage.FIND),
    "read-settings": ("Show settings", Action.SHOW_SETTINGS, Stage.SETTINGS, SettingsPage.SEE),
    "read-switches": ("Show settings", Action.SHOW_SETTINGS, Stage.SETTINGS, SettingsPage.SWITCHES),
    "acts-done": ("Open Prepare", Action.PREPARE, Stage.PREPARE, None),
    "kernel-log": ("Look at the ports", Action.LOOK_PORT, Stage.PORT, None),
    "list-ports": ("Look at the ports", Action.LOOK_PORT, Stage.PORT, None),
    "pull-and-put-back": ("Look at the ports", Action.LOOK_PORT, Stage.PORT, None),
}


def failed(seen: LinkSeen, what: str, otherwise: NextStep | None = None) -> list[NextStep]:
    """The ways on from something that failed; `what`: what that was, as a sentence without its full stop.

    `otherwise`: where there is no diagnosis, or nobody to do what it says; else words with another end, or a search.
    """
    advice = None if seen.alone else seen.diagnosed()
    if advice is None or advice.fits_none or not advice.acts:
        return [otherwise or _alone(seen, what)]
    act = advice.acts[0]
    told = f"{what}. Worth most now: {advice.headline.rstrip('.')}."
    by_itself = [one.code for one in takewhile(lambda one: one.by == "program", advice.acts)]
    again = _other_end(seen, what) if "other-endings" in by_itself else None  # one press, and as cheap as the others
    return [again or _there(act, told)]


def _there(act: ActTold, told: str) -> NextStep:
    """An act, at the place where it is done."""
    button, action, stage, page = ELSEWHERE.get(act.code, ("Find the fault", Action.DIAGNOSE, Stage.DIAGNOSE, None))
    return NextStep(told, act.minutes, button, action, stage=stage, page=page)


def _alone(seen: LinkSeen, what: str) -> NextStep:
    """What the program can do by itself: words with another end, a search."""
    text = f"{what}. Look at its power, then search for its settings."
    search = NextStep(text, SEARCH_MINUTES, "Search for it", Action.FIND, stage=Stage.TALK, page=TalkPage.FIND)
    return _other_end(seen, what) or search


def _other_end(seen: LinkSeen, what: str) -> NextStep | None:
    """The same words with an end that was not tried yet; None where all usual ones were."""
    silence = seen.evidence.silence
    left = next((end for end in USUAL_ENDS if end not in silence.tried), None) if silence is not None else None
    if left is None:
        return None
    text = f"{what}. Quickest is to try another end: {left.spoken}."
    return NextStep(text, 0.1, f"Say it with {left.spoken}", Action.AGAIN, end=left, stage=Stage.TALK)
