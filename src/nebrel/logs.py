"""The log: one file in the data folder, in lines of text or of JSON, and the older ones beside it."""

import logging
from collections import deque
from logging.handlers import RotatingFileHandler
from pathlib import Path

from pythonjsonlogger.json import JsonFormatter

from nebrel.core.errors import BadValueError
from nebrel.settings import Settings

NAME = "nebrel"
TEXT = "%(asctime)s %(levelname)s %(name)s%(about)s: %(message)s"
FIELDS = "%(asctime)s %(levelname)s %(name)s %(message)s"
MOST_RECENT = 100
ABOUT = ("job", "piece", "path")


class _TextFormatter(logging.Formatter):
    """Lines that name what they are about."""

    def format(self, record: logging.LogRecord) -> str:
        told = [f"{name} {getattr(record, name)}" for name in ABOUT if hasattr(record, name)]
        record.about = f" [{', '.join(told)}]" if told else ""
        return super().format(record)


class RecentLog(logging.Handler):
    """The last warnings and errors of this process."""

    def __init__(self) -> None:
        super().__init__(logging.WARNING)
        self._records: deque[logging.LogRecord] = deque(maxlen=MOST_RECENT)

    def emit(self, record: logging.LogRecord) -> None:
        self._records.append(record)

    def records(self) -> list[logging.LogRecord]:
        """The oldest first."""
        return list(self._records)


def log_path(settings: Settings) -> Path:
    """The newest log file."""
    return settings.data_dir / "logs" / "nebrel.log"


def open_log(settings: Settings) -> logging.Handler:
    """Let everything that Nebrel logs in this process go to the log of the data folder, until `close_log`.

    Raises:
        BadValueError: the file cannot be written.
    """
    path = log_path(settings)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handler = RotatingFileHandler(
            path, maxBytes=settings.log_bytes, backupCount=settings.log_files, encoding="utf-8"
        )
    except OSError as cause:
        raise BadValueError(f"The log {path} cannot be written: {cause.strerror}.") from cause
    handler.setFormatter(JsonFormatter(FIELDS) if settings.log_format == "json" else _TextFormatter(TEXT))
    logger = logging.getLogger(NAME)
    logger.setLevel(settings.log_level.upper())
    logger.addHandler(handler)
    return handler


def close_log(handler: logging.Handler) -> None:
    """Let go of the file."""
    logging.getLogger(NAME).removeHandler(handler)
    handler.close()
