"""A piece turned once round as a file."""

import io

from PIL import Image


def filmed(client, piece_id: str, job_until, **order) -> tuple[dict, bytes]:
    job = client.post(f"/api/pieces/{piece_id}/turntable", json=order).json()
    done = job_until(job["id"], lambda each: each["state"] in ("done", "failed"))
    assert done["state"] == "done", done["message"]
    return done["film"], client.get(f"/api/jobs/{job['id']}/file").content


def test_a_film_is_saved_with_as_many_frames_as_it_lasts(client, started, job_until):
    film, data = filmed(client, started["id"], job_until, format="webp", seconds=1)
    assert film["frames"] == 20
    assert film["file_name"].endswith("-turntable.webp")
    moving = Image.open(io.BytesIO(data))
    assert moving.n_frames == film["frames"]
    assert moving.size == tuple(film["size_px"])


def test_what_is_no_film_is_refused(client, started):
    for order in ({"format": "avi"}, {"seconds": 0}, {"seconds": 1000}):
        assert client.post(f"/api/pieces/{started['id']}/turntable", json=order).status_code == 422
