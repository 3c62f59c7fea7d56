"""From the plug to the open port on the demo's machine: the step that failed, its remedy, and the answer."""

from pathlib import Path

import pytest

from humble_courier.app.demo.machine import DemoMachine
from humble_courier.app.port.machine import Machine
from humble_courier.catalog.load import Catalog
from humble_courier.domain.facts import State
from humble_courier.errors import BadInput, MachineRefused
from humble_courier.simulator.machine import Plug


def machine_of(folder: Path, catalog: Catalog) -> tuple[DemoMachine, Machine]:
    demo = DemoMachine(folder / "machine")
    machine = Machine(catalog, demo.root)
    machine.refresh(100.0)
    return demo, machine


def test_the_list_sets_apart_what_is_built_in(tmp_path: Path, catalog: Catalog) -> None:
    _, machine = machine_of(tmp_path, catalog)
    rows = machine.rows()
    assert [r.title for r in rows] == [
        "/dev/ttyUSB0",
        "/dev/ttyUSB1",
        "/dev/ttyUSB2",
        "no port, 1-4",
        "/dev/ttyS0",
        "/dev/pts/4",
    ]
    assert rows[-1].group != rows[0].group and machine.simulated
    assert "no port comes of it" in machine.headline()[0]


def test_a_blocked_module_is_the_step_that_failed(tmp_path: Path, catalog: Catalog) -> None:
    _, machine = machine_of(tmp_path, catalog)
    idle = machine.rows()[3].idle
    assert idle is not None
    steps = machine.idle_story(idle)
    assert [s.title for s in steps] == ["Plug", "Power", "Device", "Module", "Node"]
    assert [s.title for s in steps if s.state is State.CONTRADICTED] == ["Module"]
    assert "blacklist.conf keeps it out" in steps[3].text and steps[3].remedy.startswith("sudo sed -i '2s/")


def test_the_story_of_a_good_port_and_of_a_held_one(tmp_path: Path, catalog: Catalog) -> None:
    demo, machine = machine_of(tmp_path, catalog)
    steps = machine.story(machine.ports[0])
    assert [s.title for s in steps] == ["Plug", "Power", "Device", "Module", "Node", "Permission", "Free", "Timing"]
    assert State.CONTRADICTED not in {s.state for s in steps}
    assert "16 ms" in steps[-1].text and "latency_timer" in steps[-1].remedy
    demo.machine.hold("/dev/ttyUSB1", 812, "ModemManager")
    machine.refresh(101.0)
    held = machine.story(machine.ports[1])
    free = next(s for s in held if s.title == "Free")
    assert free.remedy == "sudo systemctl stop ModemManager" and "ID_MM_DEVICE_IGNORE" in free.text
    demo.machine.hold("/dev/ttyUSB2", 813, "logger")
    machine.refresh(102.0)
    assert next(s for s in machine.story(machine.ports[2]) if s.title == "Free").remedy == "kill 813"


def test_the_timer_is_set_when_asked_and_can_be_put_back(tmp_path: Path, catalog: Catalog) -> None:
    _, machine = machine_of(tmp_path, catalog)
    port = machine.ports[0]
    assert machine.story(port)[-1].sets_ms == 1
    assert machine.set_latency(port, 1) == 16
    machine.refresh(101.0)
    told = machine.story(machine.ports[0], was_ms=16)[-1]
    assert "it was 16 ms" in told.text and told.sets_ms == 16 and "echo 16 |" in told.remedy


def test_too_little_power_is_a_step_that_failed(tmp_path: Path, catalog: Catalog) -> None:
    demo, machine = machine_of(tmp_path, catalog)
    demo.machine.plug(Plug("0403", "6001", "ftdi_sio", "ftdi_sio", power_ma=400), "1-3.3", 9)
    machine.refresh(101.0)
    step = next(s for s in machine.story(machine.ports[3]) if s.title == "Power")
    assert step.state is State.CONTRADICTED and "hub with its own supply" in step.text


def test_a_device_server_of_a_link_stands_in_the_list(tmp_path: Path, catalog: Catalog) -> None:
    _, machine = machine_of(tmp_path, catalog)
    machine.network = ("socket://192.0.2.7:4001",)
    row = machine.rows()[-1]
    assert row.title == "socket://192.0.2.7:4001" and row.port is not None
    assert [s.state for s in machine.story(row.port)] == [State.ASSUMED, State.UNKNOWN]


def test_a_virtual_machine_that_took_the_device(tmp_path: Path, catalog: Catalog) -> None:
    demo, machine = machine_of(tmp_path, catalog)
    demo.machine.take("1-4")
    machine.refresh(101.0)
    idle = machine.rows()[3].idle
    assert idle is not None and idle.bound == "usbfs"
    assert "virtual machine" in machine.idle_story(idle)[3].text


def test_the_plug_is_pulled_and_put_back(tmp_path: Path, catalog: Catalog) -> None:
    demo, machine = machine_of(tmp_path, catalog)
    demo.pull("1-3.2")
    assert machine.refresh(102.0) and demo.pulled
    assert machine.headline()[0] == "/dev/ttyUSB2 is gone: put the plug back"
    assert any(r.change == "vanished a moment ago" for r in machine.rows())
    demo.put_back()
    assert machine.refresh(105.0)
    assert machine.headline()[0] == "Yours is /dev/ttyUSB2"
    assert machine.rows()[2].change == "appeared 0 s ago"
    assert dict(machine.read_log(demo.log))["1-3.2: healthy"].startswith("/dev/ttyUSB2")


def test_a_machine_without_anything(tmp_path: Path, catalog: Catalog) -> None:
    machine = Machine(catalog, tmp_path)
    machine.refresh(1.0)
    assert machine.rows() == [] and "No adapter" in machine.headline()[0]


def test_a_log_file_of_any_size_and_one_that_is_not_there(tmp_path: Path, catalog: Catalog) -> None:
    demo, machine = machine_of(tmp_path, catalog)
    assert machine.read_log_file(demo.machine.log_file) == machine.read_log(demo.log)
    with pytest.raises(BadInput, match="No such file"):
        machine.read_log_file(tmp_path / "nowhere")


def test_a_folder_that_cannot_be_made_is_one_clear_error(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("")
    with pytest.raises(MachineRefused, match="machine") as told:
        DemoMachine(tmp_path / "file" / "machine")
    assert "another folder" in told.value.remedy
