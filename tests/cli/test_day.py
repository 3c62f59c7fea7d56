"""`pack` and `day` as a shell sees them."""

import datetime
import json
import re
import subprocess
from pathlib import Path

import icalendar
import pytest

from tests.app.today.test_calendar_visits import ELSEWHERE
from tests.cli.test_cli import run

LINK = "courier: link/1\ncomputer: {{port: usb-a}}\ndevice: {{device: {device}}}\n"
VISITS = """courier: visits/1
name: Upper valley
date: "2026-11-27"
visits:
- {id: weir, at: "08:20", links: [gauge-logger.yaml]}
- {id: hut, links: [data-concentrator.yaml, gauge-logger.yaml], note: ring first}
"""
KIT = """courier: kit/1
items:
- {part: usb-rs232, count: 2, weight_g: 60, cost: 18}
- {part: crossed-de9-3wire, weight_g: 90}
- {part: straight-de9, weight_g: 400}
- {part: crossover-adapter-de9}
- {part: adapter-de9-8p8c-console}
- {part: rolled-8p8c}
"""


@pytest.fixture
def day(tmp_path: Path) -> tuple[str, ...]:
    for device in ("gauge-logger", "data-concentrator", "wind-sensor"):
        (tmp_path / f"{device}.yaml").write_text(LINK.format(device=device))
    (tmp_path / "v.yaml").write_text(VISITS)
    (tmp_path / "k.yaml").write_text(KIT)
    return str(tmp_path / "v.yaml"), "--kit", str(tmp_path / "k.yaml")


def test_the_fewest_pieces_serve_the_day(day: tuple[str, ...]) -> None:
    code, out, _ = run("pack", *day, "--json")
    told = json.loads(out)
    assert code == 0 and told["optimal"] and not told["missing"]
    crosses = next(part for part in told["take"] if part.startswith("cross"))
    assert sorted(told["take"]) == sorted(["adapter-de9-8p8c-console", crosses, "rolled-8p8c", "usb-rs232"])
    assert set(told["serves"]) == {"weir", "hut"} and set(told["serves"]["hut"]) <= set(told["take"])
    assert "usb-rs232" in told["fails_without"] and told["weight_g"] == 300.0 + (
        told["take"].count("crossed-de9-3wire") * 10
    )


def test_with_a_spare_what_can_outlive_a_failure_does(day: tuple[str, ...]) -> None:
    code, out, _ = run("pack", *day, "--spare", "one-failure", "--json")
    told = json.loads(out)
    assert code == 1 and told["missing"] == ["Relay-hut data concentrator"], "there is one console adapter only"
    lost = {link for links in told["fails_without"].values() for link in links}
    assert lost == {"Relay-hut data concentrator"} and told["take"].count("usb-rs232") == 2


def test_what_no_kit_serves_is_bought_or_built(day: tuple[str, ...], tmp_path: Path) -> None:
    (tmp_path / "v.yaml").write_text(VISITS + "- {id: ridge, links: [wind-sensor.yaml]}\n")
    code, out, _ = run("pack", *day)
    assert code == 1 and "Not served: Ridge sonic wind sensor." in out and "Build: a cable terminal 5" in out
    code, out, _ = run("day", *day)
    assert code == 1 and "Tell those who mind" in out and re.search(r"08:20  weir, 15 min\. Take: usb-rs232", out)


def test_the_sheet_of_the_day(day: tuple[str, ...], tmp_path: Path) -> None:
    pdf, ics = tmp_path / "d.pdf", tmp_path / "d.ics"
    (tmp_path / "v.yaml").write_text(VISITS.replace("note: ring first", "note: ring first, plans: [valves.yaml]"))
    units = "".join(f"- {{name: valve {n}}}\n" for n in range(20))
    (tmp_path / "valves.yaml").write_text(
        f"courier: site/1\nprotocol: modbus-rtu\nbank: {{width: 8}}\nper_segment: 10\nmembers:\n{units}"
    )
    code, out, err = run("day", *day, "--json", "--pdf", str(pdf), "--ics", str(ics))
    told = json.loads(out)
    assert code == 0, err
    assert [visit["id"] for visit in told["visits"]] == ["weir", "hut"] and told["visits"][1]["note"] == "ring first"
    assert all(len(set(visit["cautions"])) == len(visit["cautions"]) for visit in told["visits"])
    text = subprocess.run(["pdftotext", "-layout", str(pdf), "-"], capture_output=True, check=True).stdout.decode()
    assert "Upper valley 2026-11-27" in text and "Before leaving" in text and "ring first" in text
    assert "hut, valves, segment 2: 10 devices" in text and len(told["visits"][1]["plans"][0]["segments"]) == 2
    events = icalendar.Calendar.from_ical(ics.read_bytes()).walk("VEVENT")
    assert [str(event["SUMMARY"]) for event in events] == ["weir", "hut"]
    begins = [event["DTSTART"].dt for event in events]
    assert begins[0] == datetime.datetime(2026, 11, 27, 8, 20) and begins[1] == begins[0] + datetime.timedelta(minutes=15)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("courier: kit/1\n", "begins with courier: visits/1"),
        (VISITS.replace("id: hut", "id: weir"), "two visits “weir”"),
        (VISITS.replace("08:20", "25:00"), "“25:00” is no time of day; expected one as 08:20"),
        (VISITS.replace("2026-11-27", "tomorrow"), "there is no day tomorrow"),
        (VISITS.replace("gauge-logger.yaml]}", "gone.yaml]}"), "gone.yaml"),
        (VISITS.replace("2026-11-27", "2026-13-40"), "there is no day 2026-13-40"),
        (VISITS.replace("id: hut,", "id: hut, stays: [nothing],"), "no part “nothing”"),
        ("courier: visits/1\nvisits: [" + ", ".join(f"{{id: v{i}}}" for i in range(501)) + "]\n", "500"),
    ],
)
def test_bad_visits_are_told_at_their_line(day: tuple[str, ...], tmp_path: Path, text: str, words: str) -> None:
    (tmp_path / "v.yaml").write_text(text)
    code, _, err = run("pack", *day)
    assert code == 2 and words in err and "Traceback" not in err


def test_under_a_weight_the_day_is_as_sure_as_can_be(day: tuple[str, ...]) -> None:
    _, out, _ = run("pack", *day, "--limit", "900", "--json")
    sure = json.loads(out)
    _, out, _ = run("pack", *day, "--limit", "320", "--json")
    light = json.loads(out)
    assert light["weight_g"] <= 320 < sure["weight_g"] <= 900 and sure["take"].count("usb-rs232") == 2
    assert sure["chance"] > light["chance"] and sure["chance"] >= sure["chance_of_the_lightest"]
    code, out, _ = run("pack", *day, "--limit", "900")
    assert code == 0 and "the whole day succeeds with" in out
    code, _, err = run("pack", *day, "--limit", "0")
    assert code == 2 and "grams above 0" in err
    code, out, _ = run("pack", *day, "--limit", "50", "--json")
    assert code == 1 and json.loads(out)["take"] == [] and len(json.loads(out)["missing"]) == 3
    _, out, _ = run("pack", *day, "--limit", "50")
    assert "weighs 50 g or less serves the day" in out


def test_a_day_without_links_wants_nothing(day: tuple[str, ...], tmp_path: Path) -> None:
    (tmp_path / "v.yaml").write_text("courier: visits/1\nvisits: [{id: weir}]\n")
    code, out, _ = run("pack", *day, "--json")
    assert code == 0 and json.loads(out)["take"] == []
    code, _, err = run("pack", *day, "--spare", "two")
    assert code == 2 and "expected none or one-failure" in err


def test_a_calendar_becomes_visits(tmp_path: Path) -> None:
    calendar = tmp_path / "c.ics"
    calendar.write_bytes(ELSEWHERE.encode())
    code, out, _ = run("--data", str(tmp_path / "none"), "visits", str(calendar), "--date", "2026-11-27", "--json")
    told = json.loads(out)
    assert code == 1 and told["courier"] == "visits/1" and told["date"] == "2026-11-27"
    assert [visit["id"] for visit in told["visits"]] == ["Dentist", "weir gauge house", "Relay hut", "Ridge mast"]
    assert not (tmp_path / "none").exists(), "a question makes no records"
    code, out, _ = run("--data", str(tmp_path / "none"), "visits", str(calendar), "--date", "2026-11-27")
    (tmp_path / "v.yaml").write_text(out)
    (tmp_path / "k.yaml").write_text(KIT)
    code, _, err = run("pack", str(tmp_path / "v.yaml"), "--kit", str(tmp_path / "k.yaml"))
    assert code == 0, err
    for words, said in ((("none.ics",), "none.ics"), ((str(calendar), "--date", "soon"), "no day soon")):
        code, _, err = run("--data", str(tmp_path / "none"), "visits", *words)
        assert code in (2, 3) and said in err and "Traceback" not in err
