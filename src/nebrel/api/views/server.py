"""The server itself, as messages."""

import json
import platform
from datetime import UTC, datetime
from importlib.metadata import version

from sqlalchemy.exc import SQLAlchemyError

from nebrel.api.messages.server import HealthView, ProblemView, StoragePart, StorageView
from nebrel.api.serving.context import Context
from nebrel.core.errors import NebrelError, NotFoundError
from nebrel.jobs.workshop import Workshop
from nebrel.logs import log_path
from nebrel.store.copies import copies_in, made_at
from nebrel.store.housekeeping import Housekeeping, free_bytes, sizes_in

MOST_PROBLEMS, MOST_LINES = 50, 400
JOBS = {
    "build": "Build", "picture": "Picture file", "heights": "Height map", "turntable": "Turntable",
    "carving": "Carving", "service": "Depths from a service",
}  # fmt: skip
# Settings that a report tells; none of them says who may come in, or where other services are.
TOLD = ("host", "workers", "memory_cache_bytes", "folder_cache_bytes", "log_level")


def health_of(context: Context) -> HealthView:
    """How the server is."""
    try:
        jobs, answers = context.workshop.jobs, True
        waiting, running = jobs.count("waiting"), jobs.count("running")
    except (SQLAlchemyError, NebrelError):
        waiting, running, answers = 0, 0, False
    return HealthView(
        ok=context.jobs.alive and context.looking.alive and answers,
        version=version("nebrel"),
        queue=context.jobs.alive,
        database=answers,
        waiting=waiting,
        running=running,
        pages=context.newsroom.listeners,
        free_bytes=free_bytes(context.workshop.settings.data_dir),
    )


def storage_of(workshop: Workshop) -> StorageView:
    """What the data folder holds."""
    folder = workshop.settings.data_dir
    keeping, copies = Housekeeping(workshop.database, folder), copies_in(folder)
    return StorageView(
        folder=str(folder.absolute()),
        parts=[StoragePart(name=name, files=part.files, bytes=part.bytes) for name, part in sizes_in(folder).items()],
        removed=keeping.removed(),
        states=keeping.states(),
        free_bytes=free_bytes(folder),
        copied=made_at(copies[-1]) if copies else None,
    )


def problems_of(context: Context) -> list[ProblemView]:
    """Jobs that failed, and what the log was told since the start, the newest first."""
    found = [
        ProblemView(
            when=job.ended or job.created,
            what=job.message,
            about=f"{JOBS.get(job.kind, job.kind)} of {_title(context, job.piece_id)}",
        )
        for job in context.jobs.recent()
        if job.state in ("failed", "interrupted")
    ]
    for record in context.recent_log.records():
        path = getattr(record, "path", "")
        found.append(
            ProblemView(
                when=datetime.fromtimestamp(record.created, UTC),
                what=record.getMessage().splitlines()[0],
                about=f"Request of {path}" if path else record.name.removeprefix("nebrel.").capitalize(),
            )
        )
    return sorted(found, key=lambda problem: problem.when, reverse=True)[:MOST_PROBLEMS]


def report_of(context: Context) -> str:
    """All that helps to find a fault, as text."""
    settings, told = context.workshop.settings, health_of(context).model_dump()
    sizes = {name: vars(part) for name, part in sizes_in(settings.data_dir).items()}
    about = {
        "made": datetime.now(UTC).isoformat(timespec="seconds"),
        "python": platform.python_version(),
        "system": platform.platform(),
        "health": told,
        "storage": sizes,
        "settings": {name: getattr(settings, name) for name in TOLD},
    }
    path = log_path(settings)
    lines = path.read_text(encoding="utf-8", errors="replace").splitlines()[-MOST_LINES:] if path.exists() else []
    return "\n".join(["Nebrel, a report", json.dumps(about, indent=2), "", "The end of the log", *lines, ""])


def _title(context: Context, piece_id: str) -> str:
    try:
        return str(context.workshop.pieces.get(piece_id).document.get("title", "a piece"))
    except NotFoundError:
        return "a piece that is gone"
