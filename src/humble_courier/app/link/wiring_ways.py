"""Ways to a wiring that carries: another chain, one to be made, a cable to be built."""

from humble_courier.app.link.seen import LinkSeen
from humble_courier.app.link.stages import Stage, WirePage
from humble_courier.app.link.step import Action, NextStep
from humble_courier.app.wire.chains import better_chain
from humble_courier.app.wire.proposals import best, in_a_sentence

PUT_IN, MAKE, BUILD = 1.0, 30.0, 60.0  # minutes (common practice)


def mended_wiring(seen: LinkSeen) -> list[NextStep]:
    """A chain of standard parts where one serves; else one that is half made, or a cable of one's own."""
    better = better_chain(seen.link, seen.kit, seen.catalog)
    if better is not None:
        where = "" if better.in_kit else " It is not in your kit."
        text = f"{better.text}{where} Then transmit meets receive."
        return [NextStep(text, PUT_IN, "Put it in", Action.CHAIN, chain=better.model)]
    text = "No chain of standard parts mends this. Look at the marked place on the map, or build a cable."
    ways = [NextStep(text, BUILD, "Build a cable", Action.BUILD, stage=Stage.WIRE, page=WirePage.BUILD)]
    made = best(seen.link, seen.kit, seen.catalog)
    if made is not None:
        ways.append(NextStep(in_a_sentence(made), MAKE, "Put it in", Action.CHAIN, chain=made.model))
    return ways
