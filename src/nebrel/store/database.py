"""The SQLite database: opened, brought up to date, and handed out as sessions that read or write."""

import logging
import sqlite3
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from sqlalchemy import create_engine, event, inspect, text
from sqlalchemy.engine import Engine
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session, sessionmaker

_MIGRATIONS = Path(__file__).parent / "migrations"
_LOG = logging.getLogger("nebrel.store")
# How long a write waits for those of other processes, how often it asks, and from when on the log tells of it.
BUSY_SECONDS, BUSY_TRIES, TOLD_SECONDS = 5.0, 4, 1.0
# As many pages may ask at once; what is beyond waits.
KEPT_CONNECTIONS, MOST_MORE = 8, 56


class Database:
    """Sessions on one SQLite file: as many as like may read while one writes."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._reads = sessionmaker(engine, expire_on_commit=False, autoflush=False)
        self._writes = sessionmaker(_writing(engine), expire_on_commit=False)
        self._turn = threading.Lock()

    @contextmanager
    def reading(self) -> Iterator[Session]:
        """A session that sees one state of the data and holds up no one; it cannot write."""
        with self._reads.begin() as session:
            yield session

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """A session whose work is kept on leaving, or dropped whole when an error passes through.

        Only one of a process has its turn at a time; those of other processes are waited for.
        """
        asked = time.monotonic()
        with self._turn, self._writes.begin() as session:
            patiently(session.connection)
            waited = time.monotonic() - asked
            if waited > TOLD_SECONDS:
                _LOG.warning("A write waited %.1f s for its turn", waited)
            yield session

    def shrink(self) -> None:
        """Give back to the disk what is no longer used in the file."""
        with self._turn, self._engine.connect() as connection:
            raw = connection.connection.dbapi_connection
            assert raw is not None
            raw.execute("PRAGMA query_only=OFF")
            raw.execute("VACUUM")
            raw.execute("PRAGMA wal_checkpoint(TRUNCATE)")

    def close(self) -> None:
        """Let go of the file."""
        self._engine.dispose()


def patiently(act: Callable[[], object]) -> None:
    """Begin to write, again where others hold the file for long.

    Raises:
        OperationalError: they still do.
    """
    for turn in range(BUSY_TRIES):
        try:
            act()
        except OperationalError as refusal:
            if turn == BUSY_TRIES - 1 or not is_busy(refusal):
                raise
        else:
            return


def is_busy(error: BaseException) -> bool:
    """Whether an error says that another process holds the file."""
    return _sqlite_code(error) in (sqlite3.SQLITE_BUSY, sqlite3.SQLITE_LOCKED)


def is_full(error: BaseException) -> bool:
    """Whether an error says that there is no more room on the disk."""
    return _sqlite_code(error) == sqlite3.SQLITE_FULL


def _sqlite_code(error: BaseException) -> int:
    """SQLite's own number of an error, without what it adds to it; 0 for other errors."""
    cause = getattr(error, "orig", None)
    return int(getattr(cause, "sqlite_errorcode", 0)) & 0xFF


def open_database(path: Path) -> Database:
    """The database at `path`, made when missing, migrated to the newest tables, in WAL mode."""
    path.parent.mkdir(parents=True, exist_ok=True)
    engine = create_engine(f"sqlite:///{path}", pool_size=KEPT_CONNECTIONS, max_overflow=MOST_MORE)
    event.listen(engine, "connect", _on_connect)
    event.listen(engine, "begin", _begin)
    if _version(engine) != newest_version():
        _migrate(_writing(engine))
    return Database(engine)


def newest_version() -> str:
    """The version of tables that this program makes."""
    return max(file.name[:4] for file in (_MIGRATIONS / "versions").glob("[0-9]*.py"))


def _writing(engine: Engine) -> Engine:
    return engine.execution_options(writes=True)


def _version(engine: Engine) -> str | None:
    with engine.connect() as connection:
        if not inspect(connection).has_table("alembic_version"):
            return None
        version: str | None = connection.scalar(text("SELECT version_num FROM alembic_version"))
        return version


def _migrate(engine: Engine) -> None:
    # Loaded only here: every start of every process would pay for it.
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS))
    config.attributes["engine"] = engine
    command.upgrade(config, "head")


def _on_connect(connection: Any, _record: object) -> None:
    connection.isolation_level = None
    busy = f"busy_timeout={round(1000 * BUSY_SECONDS)}"
    for pragma in ("journal_mode=WAL", "foreign_keys=ON", "synchronous=FULL", busy):
        connection.execute(f"PRAGMA {pragma}")


def _begin(connection: Any) -> None:
    writes = connection.get_execution_options().get("writes", False)
    connection.exec_driver_sql(f"PRAGMA query_only={'OFF' if writes else 'ON'}")
    connection.exec_driver_sql("BEGIN IMMEDIATE" if writes else "BEGIN")
