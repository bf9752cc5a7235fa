"""The SQLite database: opened, brought up to date, and handed out as sessions."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from sqlalchemy import create_engine, event, inspect, text
from sqlalchemy.engine import Engine
from sqlalchemy.orm import Session, sessionmaker

_MIGRATIONS = Path(__file__).parent / "migrations"


class Database:
    """Sessions on one SQLite file."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._sessions = sessionmaker(engine, expire_on_commit=False)

    @contextmanager
    def session(self) -> Iterator[Session]:
        """A session whose work is kept on leaving, or dropped whole when an error passes through."""
        with self._sessions.begin() as session:
            yield session

    def close(self) -> None:
        """Let go of the file."""
        self._engine.dispose()


def open_database(path: Path) -> Database:
    """The database at `path`, made when missing, migrated to the newest tables, in WAL mode."""
    path.parent.mkdir(parents=True, exist_ok=True)
    engine = create_engine(f"sqlite:///{path}")
    event.listen(engine, "connect", _on_connect)
    event.listen(engine, "begin", _begin_immediately)
    if _version(engine) != max(file.name[:4] for file in (_MIGRATIONS / "versions").glob("[0-9]*.py")):
        _migrate(engine)
    return Database(engine)


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
    for pragma in ("journal_mode=WAL", "foreign_keys=ON", "synchronous=FULL", "busy_timeout=10000"):
        connection.execute(f"PRAGMA {pragma}")


def _begin_immediately(connection: Any) -> None:
    connection.exec_driver_sql("BEGIN IMMEDIATE")
