"""`diagnose`, `checks` and `causes` as a shell sees them."""

import json
from pathlib import Path

import pytest

from tests.cli.test_cli import run

LINK = """courier: link/1
computer: {port: usb-a}
chain: [{part: usb-rs232}, {part: straight-de9}]
device: {device: bench-meter}
settings: {computer: "9600,8N1,rts-cts"}
"""


def evidence(folder: Path, facts: dict[str, str], link: bool = True, more: str = "") -> str:
    (folder / "bench.link.yaml").write_text(LINK)
    lines = "".join(f"- {{check: {check}, outcome: {outcome}}}\n" for check, outcome in facts.items())
    path = folder / "e.yaml"
    path.write_text(f"courier: evidence/1\n{'link: bench.link.yaml' if link else ''}\nfacts:\n{lines}{more}")
    return str(path)


def test_diagnose_with_a_link_looks_at_its_drawing_and_its_bench(tmp_path: Path) -> None:
    code, out, _ = run("diagnose", evidence(tmp_path, {"open": "opens", "volts": "senders-meet"}), "--json")
    told = json.loads(out)
    assert code == 0 and told["simulated"]
    assert told["causes"][0]["code"] == "straight-for-crossed"
    assert told["causes"][0]["because"][0]["fact"].startswith("Volts on the contact")
    assert any("drawn wiring" in one["fact"] for one in told["causes"][0]["because"])
    assert sum(one["probability"] for one in told["causes"]) > 0.9
    assert told["next"]["by"] in ("program", "person") and told["plan"] and told["expected_minutes"] > 0
    code, out, _ = run("diagnose", evidence(tmp_path, {"open": "opens"}, link=False))
    assert code == 0 and "Expected: " in out and "Likely plan: " in out


def test_diagnose_without_a_link(tmp_path: Path) -> None:
    code, out, _ = run("diagnose", evidence(tmp_path, {"power-lamp": "dark"}, link=False), "--json")
    told = json.loads(out)
    assert code == 0 and told["causes"][0]["code"] == "no-supply" and not told["simulated"]


def test_what_fits_nothing_is_a_no(tmp_path: Path) -> None:
    facts = {"open": "held", "list-ports": "absent", "pull-and-put-back": "mine", "power-lamp": "dark",
             "other-frames": "answer", "kernel-log": "taken"}  # fmt: skip
    code, out, _ = run("diagnose", evidence(tmp_path, facts, link=False))
    assert code == 1 and "None of the causes that are known fits" in out


@pytest.mark.parametrize(("facts", "said"), [({"x": "y"}, "no check “x”"), ({"ask": "y"}, "no outcome “y”")])
def test_what_is_wrong_is_one_line(tmp_path: Path, facts: dict[str, str], said: str) -> None:
    code, _, err = run("diagnose", evidence(tmp_path, facts))
    assert code == 2 and said in err and err.count("\n") == 1 and "e.yaml:4" in err


@pytest.mark.parametrize(("what", "keys"), [("checks", {"id", "ask", "outcomes"}), ("causes", {"id", "place", "mend"})])
def test_what_there_is(what: str, keys: set[str]) -> None:
    code, out, _ = run(what, "--json")
    found = json.loads(out)[what]
    assert code == 0 and len(found) >= 60 and keys <= set(found[0])
    code, out, _ = run(what)
    assert code == 0 and len(out.splitlines()) == len(found)
