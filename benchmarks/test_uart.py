"""UART simulator: characters per second, against the plain state machine of the tests."""

import time

from pytest_benchmark.fixture import BenchmarkFixture
from tests.line import reference

from humble_courier.domain.settings import Settings
from humble_courier.line.uart import receive
from humble_courier.line.wave import encode

AT = Settings.parse("9600,8N1")
TEXT = (b"LEVEL LOGGER FW 3.1 READY\r\nLV +01.284 M OK\r\n" * 3000)[:100_000]
BYTES = bytes(range(256)) * 400
FEW = 300


def _plain_per_second() -> float:
    line = reference.bits_of(TEXT[:FEW], AT)
    begun = time.perf_counter()
    symbols = reference.receive(line, 2 * AT.rate, AT)
    assert len(symbols) == FEW
    return FEW / (time.perf_counter() - begun)


def _measure(benchmark: BenchmarkFixture, data: bytes, heard_as: str) -> None:
    def both() -> int:
        return len(receive(encode(data, AT), Settings.parse(heard_as)))

    received = benchmark(both)
    assert received > 0
    per_second = len(data) / benchmark.stats.stats.median
    plain = _plain_per_second()
    benchmark.extra_info.update(characters_per_second=round(per_second), ratio_to_plain_python=round(per_second / plain))
    print(f"\n{heard_as}: {per_second:,.0f} characters/s, {per_second / plain:,.0f} times plain Python ({plain:,.0f})")


def test_text_at_the_right_settings(benchmark: BenchmarkFixture) -> None:
    _measure(benchmark, TEXT, "9600,8N1")


def test_all_bytes_at_the_right_settings(benchmark: BenchmarkFixture) -> None:
    _measure(benchmark, BYTES, "9600,8N1")


def test_text_at_half_the_rate(benchmark: BenchmarkFixture) -> None:
    _measure(benchmark, TEXT, "4800,7E1")
