"""The records of a team: the same tables on a PostgreSQL server.

Writes take turns by a lock of the transaction (`pg_advisory_xact_lock`, PostgreSQL 15, 13.3.5): they are few and short, and
numbers that are given out by one laptop never meet those of another.
"""

import re
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from sqlalchemy import Connection, Engine, create_engine, inspect, make_url, text
from sqlalchemy.exc import ArgumentError, DBAPIError, NoSuchModuleError
from sqlalchemy.orm import Session

from humble_courier.errors import BadInput, MachineRefused, Refusal
from humble_courier.records.database import FILE, HEAD, migrate
from humble_courier.records.tables import Base

TURN = 0x4855_4D42  # the number of our lock
CONNECT_S = 5  # within which a server answers
PLAIN, DRIVER = "postgresql", "postgresql+psycopg"
NUMBERED = ("versions", "facts", "proofs", "words")
REMEDY = "See to the network, the server and the name; work goes on in the local records meanwhile"


class TeamDatabase:
    """An open database on a server; `path` is where a local one would lie, since logs and files stay on this computer.

    Raises BadInput for a URL that is none, MachineRefused where the server cannot be used.
    """

    read_only = False

    def __init__(self, folder: Path, url: str) -> None:
        self.path = folder / FILE
        self.name, self.engine = _engine(url)
        try:
            with self.guard(), self.engine.begin() as connection:
                connection.execute(text("SELECT pg_advisory_xact_lock(:turn)"), {"turn": TURN})
                if self._version(connection) != HEAD:
                    migrate(connection)
        except MachineRefused:
            self.close()
            raise

    def _version(self, connection: Connection) -> str | None:
        tables = set(inspect(connection).get_table_names())
        if not tables & {*Base.metadata.tables, "alembic_version"}:
            return None
        rows = (
            connection.execute(text("SELECT version_num FROM alembic_version")).all() if "alembic_version" in tables else []
        )
        found = str(rows[0][0]) if rows else ""
        if not re.fullmatch(r"\d{4}", found):
            raise MachineRefused(f"{self.name} holds tables of another program", "Name another database", Refusal.NOT_OURS)
        if found > HEAD:
            why = f"{self.name} was written by a newer version of the program ({found}, this one knows {HEAD})"
            raise MachineRefused(why, "Update the program. Nothing was changed", Refusal.NEWER)
        return found

    @contextmanager
    def guard(self) -> Iterator[None]:
        """Turn the server's errors into one line with a remedy."""
        try:
            yield
        except DBAPIError as error:
            why = " ".join(str(error.orig).split())
            raise MachineRefused(f"{self.name}: {why}", REMEDY, Refusal.NO_SERVER) from error

    def may_write(self) -> None:
        """Who may not is told by the server."""

    def begin(self, session: Session) -> None:
        """Before a write: wait for one's turn."""
        session.execute(text("SELECT pg_advisory_xact_lock(:turn)"), {"turn": TURN})

    def end(self, session: Session) -> None:
        """After a write: the next number that the server gives out is above all that were given here."""
        for table in NUMBERED:
            last = f"SELECT setval(pg_get_serial_sequence('{table}', 'id'), coalesce(max(id), 1)) FROM {table}"
            session.execute(text(last))

    def close(self) -> None:
        """Let go of the server."""
        self.engine.dispose()


def _engine(url: str) -> tuple[str, Engine]:
    """The name without its password, and the engine."""
    try:
        made = make_url(url)
        if made.drivername == PLAIN:
            made = made.set(drivername=DRIVER)
        if made.drivername != DRIVER or not made.database:
            raise BadInput(f"“{made.render_as_string()}”: expected postgresql://NAME@SERVER/DATABASE")
        return made.render_as_string(), create_engine(made, connect_args={"connect_timeout": CONNECT_S}, pool_pre_ping=True)
    except (ArgumentError, NoSuchModuleError, ValueError):
        raise BadInput(f"“{url}” is no name of a database: expected postgresql://NAME@SERVER/DATABASE") from None
    except ModuleNotFoundError:
        raise MachineRefused(
            "records on a server need the package psycopg, which is not installed", "pip install 'humble-courier[team]'"
        ) from None
