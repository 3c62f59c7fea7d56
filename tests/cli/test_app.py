"""What the commands print for people, word for word where it matters: each sentence of the printed answers is met once."""

from pathlib import Path

import click
import pytest
from click.testing import CliRunner

from humble_courier.__main__ import _Rooms
from humble_courier.catalog.load import Catalog
from humble_courier.cli.app import LOADERS, MODULES, build, data_first, file_last
from humble_courier.documents.reader import read_text

FILES = {
    "weir.yaml": "courier: link/1\ncomputer: {port: usb-a}\ndevice: {device: gauge-logger}\n"
    "chain: [{part: usb-rs232}, {part: straight-de9}]\nsettings: {computer: '1200,7E1'}\n",
    "bag.yaml": "courier: kit/1\nitems: [{part: usb-rs232, cost: 18}, {part: crossed-de9-3wire}]\n",
    "empty.yaml": "courier: kit/1\nitems: []\n",
    "cable.csv": "from,to,result\nA2,B3,beep\nA3,B2,beep\nA5,B5,beep\nA7,B7,silent\nA4,B6,silent\nA2,B2,silent\n",
    "volts.csv": "contact,volts\n3,-9.5\n2,0.1\n5,0\n7,9.1\n4,9.2\n",
    "one.csv": "contact,volts\n5,0\n",
    "alike.yaml": "courier: bus/1\nprotocol: modbus-rtu\nsettings: '19200,8E1'\n"
    "members: [{name: a, address: 3}, {name: b, switches: [1, 1, 0, 0, 0, 0, 0, 0]}]\n",
    "io.yaml": "courier: io/1\nradix: 8\nmodules: [{name: a, points: 16, start: '0'}, {name: b, points: 8, start: '10'}]\n",
    "numbers.yaml": "courier: port-numbers/1\nadapters: [{id: yard, number: 8}, {id: spare, number: 9}]\n"
    "programs: [{id: chart, uses: yard, highest: 1}, {id: log, uses: spare, highest: 1}]\n",
    "log.txt": "[ 1.0] usb 1-1: new full-speed USB device number 5 using xhci_hcd\n"
    "[ 2.0] usb 1-1: device descriptor read/64, error -71\n",
    "heard.raw": "ID SKW-GH-07 FW3.1 SN 20418\r\n" * 4,
}
PRINTED = [
    ("trace weir.yaml", 1, "Both ends send on the same conductor"),
    ("plan weir.yaml --kit bag.yaml", 0, "1. USB adapter"),
    ("plan weir.yaml --kit empty.yaml", 1, "Nothing in the kit will do."),
    ("plan weir.yaml --kit empty.yaml", 1, "Must be silent:"),
    ("build weir.yaml", 0, "A (computer's side)"),
    ("identify cable.csv", 0, "Touch "),
    ("levels volts.csv", 0, "use a crossed cable from a DTE computer"),
    ("levels one.csv", 0, "Not certain yet"),
    ("rate --clock 1843200 --rate 9600", 0, "divisor 12: 9600.00 bit/s"),
    ("rate --clock 1000000 --rate 115200", 1, "not safe"),
    ("timing --settings 9600,8N1 --bytes 16 --timeout 5", 1, "Too late: the protocol gives up after 5 ms."),
    ("timing --settings 9600,8N1 --bytes 16 --timeout 500 --devices 6", 0, "Asking 6 devices once takes"),
    ("timing --settings 4800,8N1 --bytes 500 --per-second 2", 1, "The talker takes"),
    ("timing --settings 9600,8N1 --bytes 900 --takes 100 --buffer 64", 1, "bytes are lost, the first after"),
    ("timing --settings 9600,8N1 --bytes 32 --takes 100 --buffer 64", 0, "The buffer holds out"),
    ("infer heard.raw --heard-as 9600,8N1", 0, "9600 8N1"),
    ("switches --address 5 --width 8", 0, "switch 1  on   weighs 1"),
    ("switches --address 42 --rotary 2", 0, "set to 2 A"),
    ("bus alike.yaml", 1, "b: take 1, switches 10000000"),
    ("io io.yaml", 1, "Next free start: 20"),
    ("ip --device 192.168.1.10/24 --computer 10.0.0.5/24", 1, "Give the computer 192.168.1."),
    ("ip --device 192.168.1.10/24 --computer 192.168.1.5/24", 0, "They reach each other."),
    ("hear --sent 1200,7E1 --heard-as 2400,8N1 --text LEVEL", 0, "with errors (marked ?)."),
    ("hear --sent 1200,7E1 --heard-as 1200,7E1 --text LEVEL", 0, "No errors are seen."),
    ("port-numbers numbers.yaml", 1, "Where no number can be moved:"),
    ("driver 1a86:7523", 0, "claimed by ch341"),
    ("driver ffff:ffff", 1, "no module claims it"),
    ("kernel-log log.txt", 0, "1-1: cable-or-socket (lines 2)"),
    ("decode heard.raw --protocol text", 0, "Read as text."),
    ("loopback sim://bench/loop-back?power=on --long 2048 --arm", 0, "Long transfer: all 2048 bytes came back"),
    ("latency sim://bench/loop-back?power=on --settings 115200,8N1 --times 5 --arm", 0, "The line itself takes"),
    ("latency sim://bench/gauge-logger?power=on --settings 115200,8N1 --times 2 --arm", 1, "Nothing came back"),
    ("wake sim://bench/gauge-logger?power=on --arm", 1, "Nothing answers: key off"),
    ("find sim://bench/bench-meter?power=on --device bench-meter --arm", 0, "Settings 9600 8N1"),
    ("parts", 0, "crossed-de9-3wire"),
    ("connectors", 0, "DE-9"),
    ("devices", 0, "text-instrument-dte"),
    ("devices --demo", 0, "gauge-logger"),
    ("units sim://bench/kline-unit?power=on --addresses 0F-10 --arm", 0, "engine 10: ENGINE TRIAL 4.2; troubles: P0123"),
    ("units sim://bench/kline-unit?power=on --addresses 12-13 --arm", 1, "No control unit answers"),
]


@pytest.fixture(scope="module")
def here(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("cli")
    for name, text in FILES.items():
        (folder / name).write_bytes(text.encode())
    return folder


@pytest.mark.parametrize(("words", "code", "said"), PRINTED, ids=[words[:40] for words, _, _ in PRINTED])
def test_what_people_read(words: str, code: int, said: str, here: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(here)
    done = CliRunner().invoke(build(_Rooms()), words.split())
    assert said in done.output, done.output
    assert done.exit_code == code


def test_each_module_has_the_commands_that_the_table_lists() -> None:
    for load, names in MODULES:
        assert tuple(load().COMMANDS) == names
    root = build(_Rooms())
    assert isinstance(root, click.Group)
    context = click.Context(root)
    assert root.list_commands(context) == list(LOADERS)
    assert all(root.get_command(context, name) is not None for name in LOADERS)
    assert root.get_command(context, "no-such") is None


def test_a_file_in_place_of_a_command_is_opened() -> None:
    assert file_last(["weir.link.yaml"]) == ["open", "weir.link.yaml"]
    assert file_last(["--data", "x", "a/b"]) == ["--data", "x", "open", "a/b"]
    for words in (["demo"], ["trace", "weir.yaml"], ["--help"], ["nonsense"], [], ["--data", "x.d"]):
        assert file_last(words) == words


@pytest.mark.parametrize(
    ("words", "same"),
    [
        ("records export --data x --json", "--data x records export --json"),
        ("records --data=x export", "--data=x records export"),
        ("say p --text --data", "--data say p --text"),
        ("hear --text -- --data x", "hear --text -- --data x"),
        ("--data x demo", "--data x demo"),
        ("", ""),
    ],
)
def test_the_folder_may_be_named_anywhere(words: str, same: str) -> None:
    assert data_first(words.split()) == same.split()


@pytest.mark.parametrize("words", ["devices", "trace mine.yaml", "build mine.yaml", "plan mine.yaml --kit bag.yaml"])
def test_sheets_of_ones_own_count_in_the_commands(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, words: str) -> None:
    monkeypatch.chdir(tmp_path)
    for name, text in FILES.items():
        Path(name).write_text(text)
    shipped = read_text(Catalog().sheet_file("gauge-logger"))
    (tmp_path / "own" / "devices").mkdir(parents=True)
    (tmp_path / "own" / "devices" / "mine.yaml").write_text(shipped.replace("id: gauge-logger", "id: mine"))
    Path("mine.yaml").write_text(FILES["weir.yaml"].replace("device: gauge-logger", "device: mine"))
    results = [CliRunner().invoke(build(_Rooms()), [*data, *words.split()], standalone_mode=False)
               for data in (["--data", "own"], [])]  # fmt: skip
    assert not isinstance(results[0].exception, Exception) or isinstance(results[0].exception, click.exceptions.Exit)
    if words == "devices":
        assert [sum(line.split()[0] == "mine" for line in one.output.splitlines()) for one in results] == [1, 0]
    else:
        assert "unknown" in str(results[1].exception)
