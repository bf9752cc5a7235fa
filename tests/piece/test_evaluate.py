"""Steps run once for what they depend on, and give the same on every run."""

import io
import threading

import numpy as np
import pytest

from nebrel.core.errors import BadValueError
from nebrel.core.mesh.formats.stl import write_stl
from nebrel.core.picture import read_picture
from nebrel.piece.evaluation.cache import ResultCache, step_key
from nebrel.piece.evaluation.held import held_bytes
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.kinds.panel.document import PanelDocument
from nebrel.piece.parts.pictured import picture_source
from nebrel.piece.registry import merge
from tests.piece.conftest import Evaluate, evaluate_over


@pytest.fixture
def document(hill) -> PanelDocument:
    return PanelDocument(title="Hill", picture=picture_source("0" * 64, "hill.png", read_picture(hill).facts))


class Sources:
    def __init__(self, data: bytes) -> None:
        self.data, self.reads = data, 0

    def __call__(self, _blob: str) -> bytes:
        self.reads += 1
        return self.data


class Folder:
    def __init__(self) -> None:
        self.files: dict[str, bytes] = {}

    def get(self, key: str) -> bytes | None:
        return self.files.get(key)

    def put(self, key: str, data: bytes) -> None:
        self.files[key] = data


def stl_of(evaluate: Evaluate, document: PanelDocument) -> bytes:
    file = io.BytesIO()
    write_stl(evaluate(document).solid().mesh, file)
    return file.getvalue()


def test_the_same_recipe_gives_the_same_bytes(hill, document):
    first = stl_of(evaluate_over(Sources(hill), ResultCache(10**8)), document)
    second = stl_of(evaluate_over(Sources(hill), ResultCache(0)), document)
    assert first == second


def test_a_change_reruns_only_what_follows_it(hill, document):
    sources = Sources(hill)
    evaluate = evaluate_over(sources, ResultCache(10**8))
    heights = evaluate(document).field()
    thicker = merge(document, {"body": {"backing_mm": 2.5}})
    assert evaluate(thicker).field() is heights
    assert evaluate(thicker).solid() is not evaluate(document).solid()
    assert evaluate(merge(document, {"title": "Other"})).solid() is evaluate(document).solid()
    assert sources.reads == 1


def test_a_solid_comes_back_from_the_folder(hill, document):
    folder = Folder()
    made = evaluate_over(Sources(hill), ResultCache(10**8, folder))(document).solid()
    fetched = evaluate_over(Sources(b"gone"), ResultCache(10**8, folder))(document).solid()
    assert np.array_equal(made.mesh.vertices, fetched.mesh.vertices)
    assert np.array_equal(made.mesh.faces, fetched.mesh.faces)
    assert made.deviation == fetched.deviation


def test_preview_is_the_same_chain_at_a_lower_resolution(hill, document):
    evaluate = evaluate_over(Sources(hill), ResultCache(10**8))
    small, full = evaluate(document).field(60), evaluate(document).field(FULL)
    assert small.heights.shape == (45, 60)
    assert small.width == pytest.approx(full.width)
    assert np.abs(small.heights.mean() - full.heights.mean()) < 0.05


def test_smoothing_can_be_switched_off(hill, document):
    evaluate = evaluate_over(Sources(hill), ResultCache(10**8))
    plain = evaluate(document).field().heights
    smooth = merge(document, {"height": {"smooth_mm": 2}})
    assert not np.array_equal(evaluate(smooth).field().heights, plain)
    off = merge(smooth, {"height": {"smooth_on": False}})
    assert np.array_equal(evaluate(off).field().heights, plain)


def test_a_build_tells_what_it_measured(hill, document):
    stages: list[str] = []
    _, report = evaluate_over(Sources(hill), ResultCache(10**8))(document).build(lambda stage, _: stages.append(stage))
    assert report.size_mm == pytest.approx((80, 80 * 89 / 119, 4.2), abs=0.001)
    assert 0 < report.rms_error_mm <= report.max_error_mm <= report.tolerance_mm == 0.02
    assert report.sound
    assert report.file_bytes == 84 + 50 * report.triangles
    assert list(dict.fromkeys(stages)) == [
        "Reading the picture",
        "Raising the heights",
        "Triangulating",
        "Measuring the surface",
        "Proving it sound",
        "Looking over the picture",
        "Looking over the heights",
    ]


def test_a_build_reads_its_picture_once_even_when_nothing_fits_the_memory(hill, document):
    sources = Sources(hill)
    evaluate_over(sources, ResultCache(memory_bytes=1))(document).build()
    assert sources.reads == 1


def test_a_picture_that_would_become_a_tower_is_refused(encode):
    data = encode(np.arange(8000, dtype=np.uint16).reshape(4000, 2))
    source = picture_source("0" * 64, "tall.png", read_picture(data).facts)
    with pytest.raises(BadValueError, match="3,000 mm"):
        evaluate_over(Sources(data), ResultCache(0))(PanelDocument(title="Tall", picture=source)).check()


class TestCache:
    def test_keys_depend_on_everything(self):
        keys = {
            step_key("a", 1, None),
            step_key("b", 1, None),
            step_key("a", 2, None),
            step_key("a", 1, {"x": 1.0}),
            step_key("a", 1, {"x": 1.5}),
            step_key("a", 1, None, "in"),
        }
        assert len(keys) == 6
        assert step_key("a", 1, {"x": 1, "y": 2}) == step_key("a", 1, {"y": 2, "x": 1})

    def test_the_least_recently_used_goes_first(self):
        cache = ResultCache(3000)
        runs: list[str] = []

        def get(key: str) -> np.ndarray:
            return cache.get(key, lambda: runs.append(key) or np.zeros(1000, dtype=np.uint8))

        for key in "abcadb":
            get(key)
        assert runs == list("abcdb")

    def test_two_threads_compute_a_key_once(self):
        cache, runs = ResultCache(10**6), []
        gate = threading.Event()

        def compute() -> bytes:
            runs.append(1)
            gate.wait(5)
            return b"x"

        threads = [threading.Thread(target=lambda: cache.get("k", compute)) for _ in range(4)]
        for thread in threads:
            thread.start()
        gate.set()
        for thread in threads:
            thread.join()
        assert len(runs) == 1

    def test_a_failure_is_not_kept(self):
        cache = ResultCache(10**6)
        with pytest.raises(ZeroDivisionError):
            cache.get("k", lambda: 1 // 0)
        assert cache.get("k", lambda: b"fine") == b"fine"

    def test_size_counts_arrays_in_dataclasses(self, hill):
        picture = read_picture(hill)
        assert held_bytes(picture) >= 2 * 120 * 90 * 4
