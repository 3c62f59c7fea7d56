"""A PostgreSQL server of the tests' own: on a free port, in a temporary folder, gone when they end."""

import os
import shutil
import signal
import socket
import subprocess
import tempfile
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import psycopg
import pytest

from tests.conftest import until

NOBODY = ["setpriv", "--reuid=nobody", "--regid=nogroup", "--clear-groups"]  # it refuses to run as root
QUICK = ["-c", "fsync=off", "-c", "full_page_writes=off", "-c", "synchronous_commit=off"]


def program(name: str) -> str:
    """Debian keeps them out of the path."""
    near = sorted(Path("/usr/lib/postgresql").glob(f"*/bin/{name}"))
    return str(near[-1]) if near else shutil.which(name) or name


@contextmanager
def running() -> Iterator[str]:
    """The address of a server, without a database."""
    with tempfile.TemporaryDirectory(prefix="courier-pg-") as folder, socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port, data = free.getsockname()[1], Path(folder) / "data"
        free.close()
        become = NOBODY if os.getuid() == 0 else []
        if become:
            shutil.chown(folder, "nobody", "nogroup")
        made = [
            *become,
            program("initdb"),
            "-D",
            str(data),
            "-U",
            "courier",
            "-A",
            "trust",
            "-E",
            "UTF8",
            "--locale=C.UTF-8",
        ]
        subprocess.run(made, check=True, capture_output=True, cwd=folder)
        started = [*become, program("postgres"), "-D", str(data), "-p", str(port), "-k", folder, "-h", "127.0.0.1", *QUICK]
        process = subprocess.Popen(started, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, cwd=folder)
        address = f"postgresql://courier@127.0.0.1:{port}"
        try:
            _wait(f"{address}/postgres")
            yield address
        finally:
            process.send_signal(signal.SIGINT)  # a fast shutdown: those who are connected are cut off
            process.wait(20)


def _wait(address: str) -> None:
    def there() -> bool:
        try:
            psycopg.connect(address).close()
        except psycopg.OperationalError:
            return False
        return True

    until(there)


def fresh(address: str) -> str:
    """The URL of a new, empty database."""
    name = f"t{uuid.uuid4().hex}"
    with psycopg.connect(f"{address}/postgres", autocommit=True) as connection:
        connection.execute(f'CREATE DATABASE "{name}"'.encode())
    return f"{address}/{name}"


@pytest.fixture(scope="session")
def address() -> Iterator[str]:
    with running() as found:
        yield found


@pytest.fixture
def team(address: str) -> str:
    return fresh(address)
