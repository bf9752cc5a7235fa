"""Pieces of the shelf in one ZIP, as long work: each is built, and what cannot be costs nothing else."""

import zipfile
from collections.abc import Callable
from typing import Any, BinaryIO

from nebrel.core.errors import NebrelError
from nebrel.jobs.made import Made
from nebrel.jobs.made_sheet import sheet_bytes, table_text
from nebrel.jobs.workplace import Workplace
from nebrel.piece.evaluation.cache import step_key
from nebrel.piece.evaluation.evaluator import Progress
from nebrel.piece.registry import parse_document

TABLE, SHEET = "report.csv", "sheet.pdf"
# Who builds one: see `jobs/work.py`.
Build = Callable[[Workplace, dict[str, Any], Progress], dict[str, Any]]


def pack_parcel(build: Build, place: Workplace, payload: dict[str, Any], report: Progress) -> dict[str, Any]:
    """Build the pieces of `payload["documents"]` and pack their files, a table and a sheet of their pictures.

    Returns:
        `file_key`, `file_name`, how many are `done`, how many `unsound`, and `refused`, a sentence for each that is
        not done.
    """
    documents = payload["documents"]
    made: list[Made] = []
    files: dict[str, str] = {}
    pictures: dict[int, bytes] = {}
    reached = 0.0
    for number, data in enumerate(documents, 1):
        title = str(data.get("title", "Untitled"))

        def told(stage: str, part: float, at: int = number - 1, title: str = title) -> None:
            # Every stage of a piece begins anew; all of them together go on.
            nonlocal reached
            reached = max(reached, 0.95 * (at + part) / len(documents))
            report(f"{title}: {stage[:1].lower()}{stage[1:]}", reached)

        try:
            piece = place.opened(parse_document(data))
            result = build(place, {"document": data}, told)
            pictures[number] = piece.evaluator.thumbnail()
        except NebrelError as refused:
            made.append(Made(number, _source(data), title, "refused", str(refused)))
            continue
        name = _free(result["file_name"], files)
        files[name] = result["file_key"]
        for extra in piece.kind.extras:
            files[name.rpartition(".")[0] + extra.ending] = result[f"{extra.name}_key"]
        seconds = result["report"]["seconds"]
        made.append(Made(number, _source(data), title, "done", "", name, result["report"], seconds))
    report("Packing", 0.95)
    key = step_key("parcel-file", 1, payload)

    def write(file: BinaryIO) -> None:
        with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as package:
            for name, kept in files.items():
                path = place.kept.path(kept)
                if path is None:
                    raise NebrelError("There is not enough room to keep so many files; choose fewer pieces.")
                package.write(path, name)
            package.writestr(TABLE, table_text(made))
            package.writestr(SHEET, sheet_bytes(made, lambda each: pictures.get(each.number), "Parcel"))

    place.kept.put_file(key, write)
    done = [each for each in made if each.state == "done"]
    return {
        "file_key": key,
        "file_name": f"{len(done)}-pieces.zip",
        "done": len(done),
        "unsound": sum(not each.sound for each in done),
        "refused": [f"{each.title}: {each.why}" for each in made if each.state != "done"],
    }


def _source(document: dict[str, Any]) -> str:
    """The name of the file that a piece starts from."""
    sources = (document.get(name) for name in ("picture", "drawing", "model"))
    return next((str(source.get("name", "")) for source in sources if isinstance(source, dict)), "")


def _free(name: str, taken: dict[str, str]) -> str:
    stem, _, ending = name.rpartition(".")
    number = 1
    while name in taken:
        number += 1
        name = f"{stem}-{number}.{ending}"
    return name
