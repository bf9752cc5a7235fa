"""`nebrel turntable`."""

import json
import subprocess

import imageio_ffmpeg
import manifold3d
import pytest
from PIL import Image

from nebrel.core.csg.boolean import mesh_of
from nebrel.core.mesh.formats.stl import write_stl

QUICK = ("--frames", 6, "--size", "96x72", "--seconds", 1)


@pytest.fixture
def post(tmp_path):
    """A post that stands along Y."""
    path = tmp_path / "post.stl"
    with path.open("wb") as file:
        write_stl(mesh_of(manifold3d.Manifold.cube((10, 30, 6))), file)
    return path


@pytest.mark.parametrize("ending", ["webp", "gif"])
def test_a_film_of_pictures_is_as_long_as_asked(nebrel, post, tmp_path, ending):
    target = tmp_path / f"post.{ending}"
    code, out, err = nebrel("turntable", post, "-o", target, *QUICK, "--json")
    assert code == 0, err
    assert json.loads(out) == {"frames": 6, "seconds": 1.0, "up": "y", "width_px": 96, "height_px": 72}
    with Image.open(target) as film:
        assert film.size == (96, 72)
        assert film.n_frames == 6
        durations = []
        for frame in range(6):
            film.seek(frame)
            film.load()
            durations.append(film.info["duration"])
    assert sum(durations) == pytest.approx(1000, abs=30)


def test_a_film_plays_and_has_every_frame(nebrel, post, tmp_path):
    target = tmp_path / "post.mp4"
    code, _, err = nebrel("turntable", post, "-o", target, *QUICK)
    assert code == 0, err
    frames, seconds = imageio_ffmpeg.count_frames_and_secs(str(target))
    assert frames == 6
    assert seconds == pytest.approx(1, abs=0.05)
    told = subprocess.run(
        [imageio_ffmpeg.get_ffmpeg_exe(), "-i", str(target)], check=False, capture_output=True, text=True
    ).stderr
    assert "h264" in told
    assert "yuv420p" in told
    assert "96x72" in told


def test_pictures_are_numbered_beside_each_other(nebrel, post, tmp_path):
    code, out, _ = nebrel("turntable", post, "-o", tmp_path / "post.png", *QUICK)
    assert code == 0
    assert sorted(path.name for path in tmp_path.glob("post-*.png")) == [f"post-{at}.png" for at in range(1, 7)]
    assert "Y up (the likelier way" in out


@pytest.mark.parametrize(
    ("options", "words"),
    [
        (("--size", "big"), "800x600"),
        (("--size", "9x9"), "64 to 2048"),
        (("--frames", "1"), "4 to 720"),
        (("--seconds", "0"), "0.5 to 120"),
        (("--up", "x"), "auto, y or z"),
        (("--tilt", "steep"), "15deg"),
    ],
)
def test_what_cannot_be_is_refused_in_a_sentence(nebrel, post, tmp_path, options, words):
    code, _, err = nebrel("turntable", post, "-o", tmp_path / "post.webp", *options)
    assert code != 0
    assert words in err or "would be accepted" in err
    assert len(err.strip().splitlines()) == 1
    assert not (tmp_path / "post.webp").exists()


def test_other_endings_and_no_mesh_are_refused(nebrel, post, tmp_path):
    assert nebrel("turntable", post, "-o", tmp_path / "post.avi")[0] != 0
    (tmp_path / "notes.stl").write_bytes(b"no mesh")
    code, _, err = nebrel("turntable", tmp_path / "notes.stl", "-o", tmp_path / "out.webp", *QUICK)
    assert code != 0
    assert len(err.strip().splitlines()) == 1
