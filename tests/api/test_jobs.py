"""Long work: done, cancelled, killed, interrupted; the server lives on."""

import csv
import io
import os
import signal
import zipfile

import numpy as np
import psutil
import pytest
from fastapi.testclient import TestClient

from nebrel.api.app import create_app
from nebrel.core.mesh.formats import read_mesh
from nebrel.core.mesh.formats.stl import read_stl
from nebrel.core.proof import check_soundness
from tests.api.conftest import BASE
from tests.api.frames import unpack
from tests.looking import shared_looking


def workers(client=None) -> list[psutil.Process]:
    """Processes of this very process that do long work: of what the process that they are forked from has started,
    all but those that read files or look at pieces."""
    servers = [child for child in psutil.Process().children() if "forkserver" in " ".join(child.cmdline())]
    others = shared_looking().pids | (client.app.state.context.reading.pids if client else set())
    return [worker for server in servers for worker in server.children() if worker.pid not in others]


def started_from(client, data) -> dict:
    piece = client.post("/api/pieces", files={"picture": ("p.png", data)}).json()
    change = {"finish": {"tolerance_mm": 0.001}, "title": "Moss / north side"}
    edit = {"base": piece["revision"], "label": "True", "change": change}
    return client.post(f"/api/pieces/{piece['id']}/revisions", json=edit).json()


def is_at_work(job) -> bool:
    return job["state"] == "running" and job["stage"] == "Triangulating"


def has_ended(job) -> bool:
    return job["state"] not in ("waiting", "running")


def test_a_build_leaves_a_true_size_file_and_a_model(client, hill, job_until):
    piece = started_from(client, hill)
    job = client.post(f"/api/pieces/{piece['id']}/build").json()
    assert client.get(f"/api/jobs/{job['id']}/file").status_code == 409
    done = job_until(job["id"], has_ended)
    assert done["state"] == "done", done["message"]
    report = done["result"]["report"]
    assert done["result"]["file_name"] == "moss-north-side-80x59.8x4.2mm.stl"
    answer = client.get(f"/api/jobs/{job['id']}/file")
    assert 'filename="moss-north-side-80x59.8x4.2mm.stl"' in answer.headers["content-disposition"]
    again = check_soundness(read_stl(answer.content))
    assert again.sound
    assert again.size == pytest.approx((80, 80 * 89 / 119, 4.2), abs=0.001)
    assert again.volume_mm3 == pytest.approx(report["volume_mm3"])
    head, arrays = unpack(client.get(f"/api/jobs/{job['id']}/model").content)
    assert head["triangles"] == len(arrays["faces"]) == report["triangles"]


def test_cancel_ends_the_worker_and_the_next_job_runs(client, noise, hill, job_until):
    slow = started_from(client, noise)
    job = client.post(f"/api/pieces/{slow['id']}/build").json()
    job_until(job["id"], is_at_work)
    (busy,) = workers(client)
    assert client.post(f"/api/jobs/{job['id']}/cancel").json()["state"] == "cancelled"
    gone, _ = psutil.wait_procs([busy], timeout=30)
    assert gone == [busy]
    quick = started_from(client, hill)
    following = client.post(f"/api/pieces/{quick['id']}/build").json()
    assert job_until(following["id"], has_ended)["state"] == "done"
    assert client.post(f"/api/jobs/{job['id']}/cancel").json()["state"] == "cancelled"


def test_a_built_solid_is_cut_at_full_resolution(client, started, job_until):
    job = client.post(f"/api/pieces/{started['id']}/build").json()
    line = {"start": [0, 1 / 3], "end": [1, 1 / 3]}
    assert job_until(job["id"], has_ended)["state"] == "done"
    cut = client.post(f"/api/jobs/{job['id']}/section", json=line).json()
    asked, (outline,) = np.array(cut["asked"], dtype=float), (np.array(outline) for outline in cut["made"])
    upper = outline[outline[:, 1] > 1.2 + 0.05]
    away = np.abs(np.interp(upper[:, 0], asked[:, 0], asked[:, 1]) - upper[:, 1])
    assert away.max() < 0.03
    assert client.post("/api/jobs/nothing/section", json=line).status_code == 404


def test_a_killed_worker_fails_its_own_job_only(client, noise, hill, job_until):
    slow, quick = started_from(client, noise), started_from(client, hill)
    doomed = client.post(f"/api/pieces/{slow['id']}/build").json()
    following = client.post(f"/api/pieces/{quick['id']}/build").json()
    job_until(doomed["id"], is_at_work)
    os.kill(workers(client)[0].pid, signal.SIGKILL)
    failed = job_until(doomed["id"], has_ended)
    assert failed["state"] == "failed"
    assert "signal 9" in failed["message"]
    assert "unharmed" in failed["message"]
    assert job_until(following["id"], has_ended)["state"] == "done"
    assert client.get("/api/pieces").status_code == 200


def test_work_that_a_stop_interrupted_is_offered_again(settings, noise, hill):
    with TestClient(create_app(settings, looking=shared_looking()), base_url=BASE) as client:
        slow = started_from(client, noise)
        client.post(f"/api/pieces/{slow['id']}/build")
    assert workers() == []
    with TestClient(create_app(settings, looking=shared_looking()), base_url=BASE) as client:
        (job,) = client.get("/api/jobs", params={"piece_id": slow["id"]}).json()
        assert job["state"] == "interrupted"
        assert "start it again" in job["message"]
        again = client.post(f"/api/jobs/{job['id']}/again").json()
        assert (again["kind"], again["piece_id"], again["revision"]) == ("build", slow["id"], job["revision"])
        assert again["id"] != job["id"] and again["state"] == "waiting"
        assert client.post(f"/api/jobs/{again['id']}/again").status_code == 409
        client.post(f"/api/jobs/{again['id']}/cancel")


def test_a_refusal_in_the_worker_is_told(client, started, settings, job_until):
    for blob in (settings.data_dir / "blobs").rglob("*"):
        if blob.is_file():
            blob.unlink()
    change = {"base": started["revision"], "label": "x", "change": {"title": "y"}}
    piece = client.post(f"/api/pieces/{started['id']}/revisions", json=change).json()
    job = client.post(f"/api/pieces/{piece['id']}/build").json()
    failed = job_until(job["id"], has_ended)
    assert failed["state"] == "failed"
    assert "missing from the data folder" in failed["message"]


def test_many_pieces_are_packed_with_a_table_and_a_sheet(client, started, job_until, encode):
    level = client.post(
        "/api/pieces", files={"picture": ("other.png", encode(np.tile(np.arange(64, dtype=np.uint8), (48, 1))))}
    ).json()
    order = {"piece_ids": [started["id"], level["id"], started["id"]]}
    done = job_until(client.post("/api/parcels", json=order).json()["id"], lambda job: job["state"] == "done")
    parcel = done["parcel"]
    assert (parcel["done"], parcel["unsound"], parcel["refused"]) == (2, 0, [])
    with zipfile.ZipFile(io.BytesIO(client.get(f"/api/jobs/{done['id']}/file").content)) as package:
        names = package.namelist()
        assert names[-2:] == ["report.csv", "sheet.pdf"]
        assert [name.rpartition(".")[2] for name in names[:-2]] == ["stl", "stl"]
        rows = list(csv.DictReader(io.StringIO(package.read("report.csv").decode())))
        assert [row["file"] for row in rows] == names[:2]
        assert check_soundness(read_mesh(package.read(names[0]), names[0], "mm").mesh).closed
    assert client.post("/api/parcels", json={"piece_ids": ["none"]}).status_code == 404
