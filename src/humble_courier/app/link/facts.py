"""The facts of a link: what its documents say, and what the session brought to light."""

from humble_courier.catalog.links import Link
from humble_courier.domain.facts import Fact, Provenance
from humble_courier.wiring.findings import Verdict
from humble_courier.wiring.trace import Trace


def documented(link: Link, at: float) -> list[Fact]:
    """What is known of a link before anything is measured."""
    facts = []
    if link.sheet is not None:
        sheet = link.sheet
        facts.append(Fact("device", f"{sheet.name}: {sheet.port.name}", Provenance.DOCUMENTED, sheet.edition, at))
        if link.model.settings.device is None:
            text = f"Device set to {link.device_settings.spoken}" if link.device_settings else "Settings unknown"
            facts.append(Fact("device settings", text, Provenance.DOCUMENTED, f"{sheet.edition}; {sheet.port.set_by}", at))
    if link.model.settings.device is not None and link.device_settings:
        text = f"Device set to {link.device_settings.spoken}"
        facts.append(Fact("device settings", text, Provenance.ASSUMED, "set in this window", at))
    if link.computer_settings:
        text = f"Computer opens {link.computer_settings.spoken}"
        facts.append(Fact("computer settings", text, Provenance.OBSERVED, "port settings of this link", at))
    for i, part in enumerate(link.parts, start=1):
        lands = next((end.lands for end in part.ends if end.lands), None)
        if lands:
            told = ", ".join(f"{colour} to {contact}" for colour, contact in lands.items())
            facts.append(Fact(f"leads {i}", f"Leads: {told}", Provenance.DOCUMENTED, "the lead's sheet, not measured", at))
        facts.append(Fact(f"part {i}", part.name, Provenance.ASSUMED, "picked by you, not yet measured", at))
    return facts


def of_trace(trace: Trace, at: float, proven: bool) -> Fact:
    """The verdict on the wiring as a fact that follows from the others; where it is proven, the drawing is doubted."""
    works = trace.verdict in (Verdict.WORKS, Verdict.WITHOUT_HANDSHAKE)
    if proven and not works:
        text = "The drawing is wrong somewhere: it works, although " + (trace.findings[0].text if trace.findings else "")
        return Fact("wiring", text, Provenance.COMPUTED, "what is measured outranks what is drawn", at)
    text = "Wiring: each end hears the other" if works else "Wiring: " + (trace.findings[0].text if trace.findings else "")
    return Fact("wiring", text, Provenance.COMPUTED, "follows from the parts and the port signals", at, works)


def newest(facts: list[Fact]) -> list[Fact]:
    """The newest fact of each subject, newest first; what stands against the link comes before all."""
    latest = {fact.subject: fact for fact in facts}
    return sorted(latest.values(), key=lambda fact: (fact.holds, -fact.at))
