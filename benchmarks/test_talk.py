"""Talk: session, decoder and log against a bare read loop; codecs against libraries; finding against order; the window."""

import os
import threading
import time
import tty
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
import pynmea2
import pytest
import serial
from pymodbus.framer import FramerRTU
from pymodbus.pdu import DecodePDU

from humble_courier.app.talk.device_search import of_protocol
from humble_courier.catalog.load import Catalog
from humble_courier.domain.settings import Settings
from humble_courier.port.driver import Driver
from humble_courier.port.log import LineLog
from humble_courier.port.port import open_port
from humble_courier.port.session import Session
from humble_courier.protocols.modbus_rtu import SPEC as MODBUS_RTU
from humble_courier.protocols.modbus_rtu import read_request, with_crc
from humble_courier.protocols.nmea import sentence
from humble_courier.protocols.registry import spec_named

UNITS = of_protocol(MODBUS_RTU, 1, 247)[0]

LINE = sentence("WIMWV,214.8,R,004.2,M,A")
MEGABITS = 4_000_000
FIX = "GPGGA,123519,4807.038,N,01131.000,E,1,08,0.9,545.4,M,46.9,M,,"


@contextmanager
def talker(count: int, rate: int | None) -> Iterator[tuple[str, threading.Event]]:
    """A pty on which a talker says `count` bytes, at `rate` bit/s or as fast as they are taken, once it is told to."""
    main, far = os.openpty()
    tty.setraw(far)
    tty.setraw(main)
    stop, go = threading.Event(), threading.Event()

    def run() -> None:
        go.wait()
        piece, sent, begun = LINE * 32, 0, time.monotonic()
        while sent < count and not stop.is_set():
            ahead = 0.0 if rate is None else sent * 10 / rate - (time.monotonic() - begun)
            if ahead > 0:
                time.sleep(ahead)
            sent += os.write(main, piece[: count - sent])

    thread = threading.Thread(target=run)
    thread.start()
    try:
        yield os.ttyname(far), go
    finally:
        stop.set()
        go.set()
        thread.join()
        os.close(main)
        os.close(far)


def bare(count: int, rate: int | None) -> float:
    """Seconds in which a bare pyserial loop reads it."""
    with talker(count, rate) as (name, go), serial.Serial(name, 115200, timeout=0.02) as port:
        go.set()
        got, begun = 0, time.perf_counter()
        while got < count:
            got += len(port.read(max(1, port.in_waiting)))
        return time.perf_counter() - begun


def ours(count: int, rate: int | None, folder: Path) -> float:
    """Seconds in which session, decoder and log take it."""
    with talker(count, rate) as (name, go):
        log = LineLog(folder / f"{time.monotonic_ns()}.jsonl")
        driver = Driver(open_port(name, Settings(115200)), Session(Settings(115200)), log)
        log.begin(name, "115200,8N1")
        go.set()
        machine, got, begun = spec_named("text").decoder(Catalog()), 0, time.perf_counter()
        while got < count:
            data = driver.step().data
            got += len(data)
            machine.feed(data)
        took = time.perf_counter() - begun
        driver.port.close()
        log.close()
        return took


@pytest.mark.parametrize("rate", [MEGABITS, None], ids=["4 Mbit/s", "as fast as it goes"])
def test_bytes_through_session_decoder_and_log(benchmark: Callable[..., object], rate: int | None, tmp_path: Path) -> None:
    count = 2_000_000 if rate else 8_000_000
    times: list[float] = []
    benchmark.pedantic(lambda: times.append(ours(count, rate, tmp_path)), rounds=3)  # type: ignore[attr-defined]
    reference = min(bare(count, rate) for _ in range(3))
    per_s, ratio = count / min(times) / 1e6, reference / min(times)
    print(f"\n{rate or 'free'}: {per_s:.2f} MB/s, {ratio:.2f} of a bare read loop ({count / reference / 1e6:.2f} MB/s)")


def test_sentences_against_pynmea2(benchmark: Callable[..., object]) -> None:
    data, machine = sentence(FIX) * 500, spec_named("nmea-0183").decoder(Catalog())
    benchmark(lambda: machine.feed(data))
    begin = time.perf_counter()
    for line in data.decode().splitlines():
        pynmea2.parse(line, check=True)
    reference = time.perf_counter() - begin
    took = benchmark.stats.stats.median  # type: ignore[attr-defined]
    print(f"\nsentences: {len(data) / took / 1e6:.2f} MB/s, {reference / took:.2f} of pynmea2 alone, which reads the fields")


def test_modbus_against_pymodbus(benchmark: Callable[..., object]) -> None:
    frames = [read_request(3, 0, 4), with_crc(bytes((3, 3, 8, *range(8))))] * 250
    data, machine = b"".join(frames), spec_named("modbus-rtu").decoder(Catalog())
    benchmark(lambda: machine.feed(data))
    framer, begin = FramerRTU(DecodePDU(True)), time.perf_counter()
    for frame in frames:
        framer.decode(frame)
    reference = time.perf_counter() - begin
    took = benchmark.stats.stats.median  # type: ignore[attr-defined]
    print(f"\nModbus: {len(data) / took / 1e6:.2f} MB/s, {reference / took:.2f} of pymodbus, which is handed whole frames")


def test_the_window_under_four_megabits(benchmark: Callable[..., object], tmp_path: Path) -> None:
    """Time that each turn of the window's loop takes while sentences come at 4 Mbit/s for five seconds."""
    import msgspec
    from PyQt6.QtWidgets import QApplication

    from humble_courier.ui.start import application, show_records
    from humble_courier.ui.theme import Theme
    from humble_courier.ui.window import Window

    app: QApplication = application()
    window = Window(Catalog(), Theme())
    window.show()
    show_records(window, tmp_path / "demo", demo=True)
    link = window.work.link
    assert link is not None
    count, turns = 5 * MEGABITS // 10, []
    with talker(count, MEGABITS) as (name, go):
        link.change(msgspec.structs.replace(link.document.model, address=name))
        window.go_to("speech")
        link.listen()
        go.set()

        def watch() -> None:
            until = time.monotonic() + 5
            while time.monotonic() < until:
                begin = time.perf_counter()
                app.processEvents()
                turns.append((time.perf_counter() - begin) * 1000)
                time.sleep(0.002)

        benchmark.pedantic(watch, rounds=1)  # type: ignore[attr-defined]
        while link.live.session is not None and link.live.session.bytes_heard < count and link.live.error is None:
            app.processEvents()
    busy = [turn for turn in turns if turn > 0.3]
    heard = link.live.session.bytes_heard if link.live.session else 0
    window.close()
    p95, slowest = np.percentile(busy, 95), max(busy)
    print(f"\nwindow: 95 % of its turns within {p95:.0f} ms, slowest {slowest:.0f} ms; {heard} of {count} bytes")
