"""One authority: what may leave is what stands there, and one call ends all of it, from any thread."""

import threading

import pytest
from hypothesis import given
from hypothesis import strategies as st

from humble_courier.domain.clock import ManualClock
from humble_courier.port.authority import Authority


def test_what_holds_is_told_and_ends_with_its_time() -> None:
    clock = ManualClock(5.0)
    authority = Authority(clock)
    assert authority.now().may_send == ""
    first, _ = authority.permit("the words of the sheet"), authority.permit("a search", ends=10.0)
    assert authority.now().may_send == "the words of the sheet, a search"
    clock.wait(11.0)
    assert authority.now().may_send == "the words of the sheet"
    first.withdraw()
    assert authority.now().permits == () and not authority.stop_all("nothing was there")


@given(st.lists(st.sampled_from(["permit", "work", "end", "stop"]), max_size=30))
def test_after_a_stop_nothing_holds_and_everybody_was_asked(acts: list[str]) -> None:
    authority, permits, works = Authority(), [], []
    for act in acts:
        if act == "permit":
            permits.append(authority.permit("x"))
        elif act == "work":
            asked: list[bool] = []
            working = authority.working("search", "/dev/ttyUSB0?x", lambda asked=asked: asked.append(True))  # type: ignore[misc]
            working.__enter__()
            works.append((working, asked))
        elif act == "end" and works:
            works.pop()[0].__exit__(None, None, None)
        elif act == "stop":
            there = any(one.holds for one in permits) or bool(works)
            assert authority.stop_all("Esc") is there
            assert not any(one.holds for one in permits) and all(asked for _, asked in works)
        assert authority.now().works == (("search", "/dev/ttyUSB0"),) * len(works)
        assert bool(authority.now().may_send) is any(one.holds for one in permits)


def test_a_stop_in_the_middle_of_giving_a_permit_leaves_none_unknown() -> None:
    """Many threads ask, one stops again and again: in the end one more stop takes back all that hold."""
    authority, given_out = Authority(), []

    def ask() -> None:
        for _ in range(300):
            given_out.append(authority.permit("x"))

    threads = [threading.Thread(target=ask) for _ in range(4)]
    for thread in threads:
        thread.start()
    while any(thread.is_alive() for thread in threads):
        authority.stop_all("again")
    authority.stop_all("the last")
    assert len(given_out) == 1200 and not any(one.holds for one in given_out)


def test_who_leaves_with_an_error_works_no_longer() -> None:
    authority = Authority()
    with pytest.raises(ValueError, match="broken"), authority.working("listening", "p", lambda: None):
        raise ValueError("broken")
    assert authority.now().works == ()
