"""What has got slower is told, and what only the machine was slower at is not."""

from bench.history import last_of, note, pace_of_machine, seconds_in
from bench.report import Row


def row(what: str, measured: str) -> Row:
    return Row(what, measured, "–", None)


def test_times_are_read_from_what_is_told():
    assert seconds_in("slowest p95 67 ms (median 67, denoise 31)") == 0.067
    assert seconds_in("2.52 × a bare call (0.83 s against 0.33 s)") == 0.83
    assert seconds_in("1,250 ms") == 1.25
    assert seconds_in("RMS 0.018 px, at most 0.04; 370 triangles") is None
    assert seconds_in("96.7% right") is None


def test_only_what_took_longer_by_the_pace_of_the_machine_is_told(tmp_path):
    path = tmp_path / "history.jsonl"
    assert note("Speed", [row("Cut", "1.0 s"), row("Fold", "20 ms"), row("True", "0.01 mm")], 0.1, path) == []
    # Twice as slow a machine takes twice as long.
    assert note("Speed", [row("Cut", "2.1 s"), row("Fold", "41 ms"), row("New", "3 s")], 0.2, path) == []
    (told,) = note("Speed", [row("Cut", "2.0 s"), row("Fold", "19 ms")], 0.1, path)
    assert told.startswith("Cut: 1.9 × as long as on ") and told.endswith("(2.1 s then)")
    assert note("Other", [row("Cut", "9 s")], 0.1, path) == []
    assert last_of("Speed", path)["Cut"].seconds == 2.0
    assert last_of("None", path) == {}


def test_the_pace_of_the_machine_is_some_time():
    assert 0.001 < pace_of_machine() < 60
