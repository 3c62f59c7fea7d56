"""The commands about the wiring as a shell sees them: plan, build, identify, levels."""

import csv
import json
import subprocess
from pathlib import Path

import pytest

from tests.cli.test_cli import run

LINK = "courier: link/1\ncomputer: {port: usb-a}\ndevice: {device: gauge-logger}\n"
GREY = """  - id: grey-lead
    count: 1
    cost: 3
    ends: [{family: D, contacts: 9, gender: socket}, {family: D, contacts: 9, gender: plug}]
    conductors: [A2-B3, A3-B2, A5-B5]
"""
KIT = "courier: kit/1\nitems:\n  - {part: usb-rs232, count: 2, cost: 18}\n  - {part: straight-de9}\n"


def write(folder: Path, name: str, text: str) -> str:
    path = folder / name
    path.write_text(text)
    return str(path)


def test_plan(tmp_path: Path) -> None:
    link, kit = write(tmp_path, "weir.yaml", LINK), write(tmp_path, "kit.yaml", KIT + GREY)
    code, out, _ = run("plan", link, "--kit", kit, "--json")
    result = json.loads(out)
    assert code == 0
    assert result["chains"] == [{"parts": ["usb-rs232", "grey-lead"], "verdict": "works", "cost": 21.0, "findings": []}]
    assert (result["build"], result["buy"], result["nearest"], result["complete"]) == (None, [], None, True)
    code, out, _ = run("plan", link, "--kit", kit)
    assert code == 0 and "grey-lead" in out


@pytest.mark.parametrize("items", ["courier: kit/1\nitems: []\n", KIT])
def test_where_the_kit_has_nothing(tmp_path: Path, items: str) -> None:
    link, kit = write(tmp_path, "weir.yaml", LINK), write(tmp_path, "kit.yaml", items)
    code, out, _ = run("plan", link, "--kit", kit, "--json")
    result = json.loads(out)
    assert code == 1 and result["chains"] == []
    assert result["buy"][-1] == "crossed-de9-3wire" and ("usb-rs232" in result["buy"]) == ("usb" not in items)
    assert result["nearest"]["findings"]
    build = result["build"]
    assert build["verdict"] == "works" and set(build["conductors"]) == {"A3-B2", "A2-B3", "A5-B5"}
    assert {"from", "to", "colour", "pair", "signals"} <= set(build["wires"][0])
    assert {"end", "contact", "signal", "why"} <= set(build["unconnected"][0])
    assert ["A3", "B2"] in build["acceptance"]["beep"] and build["acceptance"]["silent"]
    code, out, _ = run("plan", link, "--kit", kit)
    assert code == 1 and "Nothing in the kit" in out and "Must beep" in out


def test_build(tmp_path: Path) -> None:
    link = write(tmp_path, "weir.yaml", LINK + "chain: [{part: usb-rs232}]\n")
    files = {kind: tmp_path / f"b.{kind}" for kind in ("pdf", "svg", "csv")}
    code, _, _ = run("build", link, *(word for kind, path in files.items() for word in (f"--{kind}", str(path))))
    assert code == 0
    rows = list(csv.reader(files["csv"].read_bytes().decode().splitlines()))
    assert ["wire", "A 3", "B 2", "TXD", "RXD", "white WH", "", ""] in rows
    assert ["must beep", "A3", "B2", "", "", "", "", ""] in rows
    text = subprocess.run(["pdftotext", str(files["pdf"]), "-"], capture_output=True, text=True, check=True).stdout
    for word in ("solder side", "mating face", "white WH", "Must be silent", "A3–B2", "USB adapter to RS-232"):
        assert word in text
    assert "<svg" in files["svg"].read_text() and "solder side" in files["svg"].read_text()
    code, out, _ = run("build", link, "--scheme", "tia-568", "--json")
    assert code == 0 and {w["pair"] for w in json.loads(out)["wires"]} == {1, 2}


def test_identify(tmp_path: Path) -> None:
    head = "from,to,result\n"
    code, out, _ = run("identify", write(tmp_path, "r.csv", head), "--json")
    result = json.loads(out)
    assert code == 0 and result["next"] and result["faults"] == []
    names = {s["cable"] for s in result["suspects"]}
    published = {
        "straight-de9",
        "crossed-de9-3wire",
        "crossed-de9-looped",
        "crossed-de9-partial",
        "crossed-de9-full",
        "unknown",
    }
    assert names == published
    assert sum(s["probability"] for s in result["suspects"]) == pytest.approx(1)
    rows = (
        "\ufeff"
        + head
        + "A2, B3, beep\n# touched twice\nA3,B2,BEEP\nA5,B5,0.4 ohm\nA7,A8,silent\nA7,B8,silent\nA1,A4,silent\n"
    )
    code, out, _ = run("identify", write(tmp_path, "r.csv", rows + "A4,B6,silent\n"), "--ends", "D9,D9", "--json")
    best = json.loads(out)["suspects"][0]
    assert (code, best["cable"]) == (0, "crossed-de9-3wire") and best["probability"] > 0.9
    rows = head + "".join(f"A{i},B{i},{'silent' if i == 7 else 'beep'}\n" for i in range(1, 10))
    code, out, _ = run("identify", write(tmp_path, "r.csv", rows), "--json")
    result = json.loads(out)
    assert (result["suspects"][0]["cable"], result["faults"][0]["code"]) == ("straight-de9", "open")
    assert result["faults"][0]["where"] == "A7-B7"
    code, out, _ = run("identify", write(tmp_path, "r.csv", rows), "--ends", "D9,D9")
    assert "open at A7-B7" in out


@pytest.mark.parametrize(
    ("ends", "reading", "names"),
    [
        ("D9,D25", "A3,B2,beep", {"adapter-de9-db25", "crossed-de9-db25"}),
        ("D9,8P8C", "A3,B3,beep", {"adapter-de9-8p8c-console", "adapter-de9-8p8c-tia561", "cable-de9-8p8c-console"}),
        ("8P8C,8P8C", "A1,B8,beep", {"rolled-8p8c", "patch-8p8c", "crossed-patch-8p8c"}),
        ("D25,D25", "A2,B2,beep", {"straight-db25", "crossed-db25"}),
    ],
)
def test_suspects_go_by_the_published_names(tmp_path: Path, ends: str, reading: str, names: set[str]) -> None:
    path = write(tmp_path, "r.csv", f"from,to,result\n{reading}\n")
    code, out, _ = run("identify", path, "--ends", ends, "--json")
    assert code == 0 and {s["cable"] for s in json.loads(out)["suspects"]} == {*names, "unknown"}


def test_levels(tmp_path: Path) -> None:
    path = write(tmp_path, "v.csv", "contact,volts,against\n2,0.1,5\n3,-9.6,5\n7,\u22129.2 V,5\n")
    code, out, _ = run("levels", path, "--json")
    result = json.loads(out)
    assert code == 0
    assert (result["role"], result["family"], result["use"]) == ("dte", "rs232", "crossed")
    assert result["probability"] > 0.9 and result["findings"] == []
    code, out, _ = run("levels", path)
    assert "crossed" in out


def test_lengths_are_told(tmp_path: Path) -> None:
    chain = "chain: [{part: usb-rs232}, {part: crossed-de9-3wire, length_m: 90}]\nsettings: {computer: '9600,8N1'}\n"
    extra = "line: {between_buildings: true}\n"
    code, out, _ = run("trace", write(tmp_path, "w.yaml", LINK + chain + extra), "--json")
    result = json.loads(out)
    assert code == 1 and {f["code"] for f in result["findings"]} == {"too-long", "ground-difference"}
    assert result["lengths"][-1]["capacitance_pf"] == pytest.approx(9000)


BAD_KIT = "courier: kit/1\nitems:\n"


@pytest.mark.parametrize(
    ("words", "file", "text", "told"),
    [
        (
            "plan LINK --kit FILE",
            "k.yaml",
            BAD_KIT + "  - {part: usb-rs233}\n",
            "k.yaml:3: unknown part “usb-rs233”: did you mean",
        ),
        ("plan LINK --kit FILE", "k.yaml", BAD_KIT + "  - {count: 2}\n", "k.yaml:3: an item: expected part:"),
        (
            "plan LINK --kit FILE",
            "k.yaml",
            BAD_KIT + "  - {part: usb-rs232, colour: grey}\n",
            "k.yaml:3: unknown key “colour”",
        ),
        ("plan LINK --kit FILE", "k.yaml", "courier: link/1\n", "expected a document that begins with courier: kit/1"),
        (
            "plan LINK --kit FILE",
            "k.yaml",
            KIT + GREY.replace("A5-B5", "A5-B12"),
            "k.yaml:9: conductor “A5-B12”: a D 9 has no contact 12",
        ),
        (
            "plan LINK --kit FILE",
            "k.yaml",
            BAD_KIT + "  - {id: x, ends: [{family: D, contacts: 9, gender: plug}], conductors: [A2-A3]}\n",
            "k.yaml:3: items.0.ends: expected 2 entries at least",
        ),
        ("plan LINK --kit FILE --k 0", "k.yaml", KIT, "--k 0: expected a number from 1 to 100"),
        ("plan LINK --kit FILE --scheme rainbow", "k.yaml", "courier: kit/1\n", "--scheme rainbow: expected one of own"),
        ("identify FILE", "r.csv", "from,to,result\nA2,B12,beep\n", "r.csv:2: contact “B12”: a D 9 has none so called"),
        ("identify FILE", "r.csv", "from,to,result\nA2,C3,beep\n", "r.csv:2: contact “C3”: a cable that is measured"),
        ("identify FILE", "r.csv", "from,to,result\nA2,B3,perhaps\n", "r.csv:2: result “perhaps”: expected beep, silent"),
        ("identify FILE", "r.csv", "from,to,result\nA2,A2,beep\n", "r.csv:2: A2 against itself"),
        ("identify FILE", "r.csv", "a,b,c\nA2,B3,beep\n", "r.csv:1: expected the columns from,to,result"),
        ("identify FILE", "r.csv", "from,to,result\nA2,B3\n", "r.csv:2: expected 3 cells"),
        ("identify FILE", "r.csv", "", "the file is empty"),
        ("identify FILE --ends D9", "r.csv", "from,to,result\n", "--ends D9: expected two connectors"),
        ("identify FILE --ends D9,Q4", "r.csv", "from,to,result\n", "unknown connector “Q4”"),
        ("levels FILE", "v.csv", "contact,volts\n3,high\n", "v.csv:2: volts “high”: expected a number"),
        ("levels FILE", "v.csv", "contact,volts\n33,-9\n", "v.csv:2: contact “33”: a D 9 has none so called"),
        ("levels FILE", "v.csv", "contact,volts\n3,nan\n", "v.csv:2: volts “nan”"),
    ],
)
def test_what_is_wrong_is_one_line(tmp_path: Path, words: str, file: str, text: str, told: str) -> None:
    write(tmp_path, file, text)
    link = write(tmp_path, "weir.yaml", LINK)
    line = [{"LINK": link, "FILE": str(tmp_path / file)}.get(word, word) for word in words.split()]
    code, _, err = run(*line)
    assert code == 2
    assert told in err and len(err.strip().splitlines()) == 1


def test_links_with_odd_parts_say_where(tmp_path: Path) -> None:
    cases = [
        ("chain: [{ends: [{family: D, contacts: 9, gender: socket}], conductors: [A2-A3]}]", "chain"),
        ("chain: [{part: lead-de9, lands: {QQ: '1'}}]", "lands: no lead is QQ"),
        ("chain: [{part: straight-de9, lands: {WH: '1'}}]", "lands: this part has no loose leads"),
        ("chain: [{part: straight-de9, wire: string}]", "unknown wire “string”"),
        ("line: {nodes: 1}", "nodes"),
    ]
    for text, told in cases:
        code, _, err = run("trace", write(tmp_path, "bad.yaml", LINK + text + "\n"))
        assert (code, told in err, "bad.yaml:4" in err) == (2, True, True), err
