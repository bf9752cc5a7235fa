"""Pieces in one ZIP, some of which cannot be built."""

import csv
import io
import zipfile

import numpy as np

import nebrel
from nebrel.jobs.beginnings import document_on, picture_in
from nebrel.jobs.parcel import pack_parcel
from nebrel.jobs.work import build
from nebrel.jobs.workplace import workplace_in
from nebrel.settings import Settings


def test_a_piece_that_cannot_be_read_keeps_no_parcel_back(tmp_path):
    place = workplace_in(Settings(data_dir=tmp_path))
    dome = np.clip(1 - np.hypot(*np.mgrid[-1:1:50j, -1:1:50j]), 0, 1)
    source = picture_in(nebrel.read_picture(dome).data, "dome.png", Settings().read_limits)
    place.blobs.add(nebrel.read_picture(dome).data, source.blob)
    good = document_on(source, "Dome").model_dump(mode="json")
    missing = {**good, "title": "Lost", "picture": {**good["picture"], "blob": "0" * 64}}
    documents = [{**good, "title": "Later", "version": 999}, missing, {"title": "Nothing"}, good, good]
    told = []
    made = pack_parcel(build, place, {"documents": documents}, lambda stage, part: told.append((stage, part)))
    assert (made["done"], made["unsound"]) == (2, 0)
    assert [sentence.partition(":")[0] for sentence in made["refused"]] == ["Later", "Lost", "Nothing"]
    path = place.kept.path(made["file_key"])
    assert path is not None
    with zipfile.ZipFile(path) as package:
        files = [name for name in package.namelist() if name.endswith(".stl")]
        rows = list(csv.DictReader(io.StringIO(package.read("report.csv").decode())))
    # Two of one title have names of their own.
    assert len(set(files)) == 2
    assert [row["state"] for row in rows] == ["refused", "refused", "refused", "done", "done"]
    assert [part for _, part in told] == sorted(part for _, part in told)
