"""What is done in another way for the largest pictures, tried on small ones."""

import numpy as np
import pytest

import nebrel
from nebrel.core.height import HeightField, with_lines
from nebrel.core.height import lined as lining
from nebrel.core.heightfield import deviation
from nebrel.core.heightfield.slab import build_slab
from nebrel.core.picture import Picture, ReadLimits, SourceFacts, read_picture
from nebrel.core.proof import audit as auditing
from nebrel.core.proof.audit import Ground, audit_picture
from nebrel.piece.kinds.panel import form_findings
from nebrel.settings import Settings

GROUND = Ground(relief=3.0, tall="bright", mm_per_px=0.02, line=0.42, layer=0.16)


def noisy(side: int) -> Picture:
    tones = np.random.default_rng(3).uniform(0.2, 0.8, (side, side)).astype(np.float32)
    return Picture(tones, np.ones_like(tones), SourceFacts("PNG", side, side, 16, "gray"))


def test_they_are_looked_over_smaller_and_that_is_told(monkeypatch):
    monkeypatch.setattr(auditing, "MOST_PIXELS", 100 * 100)
    told = []
    found = {each.measure: each for each in audit_picture(noisy(200), GROUND, told.append)}
    assert "200 × 200 pixels was looked over at 100 × 100" in found["looked-smaller"].what
    # Lengths are those of the pixels that were looked at.
    assert found["oversampled"].what.startswith("One pixel is 0.04")
    assert told == sorted(told)
    assert told[-1] == 1.0


def test_their_edges_follow_pixels_and_that_is_told(monkeypatch):
    step = np.repeat(np.repeat([[0.0, 1.0], [1.0, 0.0]], 30, axis=0), 30, axis=1)
    heights = step.astype(np.float32)
    field = HeightField(heights, np.ones_like(heights), 0.1)
    assert with_lines(field, 0.02).lines is not None
    monkeypatch.setattr(lining, "MOST_LINED", heights.size - 1)
    assert with_lines(field, 0.02).lines is None
    monkeypatch.setattr(form_findings, "MOST_LINED", heights.size - 1)
    built = nebrel.relief(step, width_mm=20, relief_mm=2).build()
    assert "edges-along-pixels" in {each.measure for each in built.report.findings}
    assert built.report.sound


def test_they_are_measured_in_bands_and_it_is_the_same(monkeypatch):
    heights = np.random.default_rng(5).uniform(0, 1, (120, 90)).astype(np.float32)
    slabs = []
    for samples in (deviation.SAMPLES_AT_ONCE, 500):
        monkeypatch.setattr(deviation, "SAMPLES_AT_ONCE", samples)
        slabs.append(build_slab(HeightField(heights, np.ones_like(heights), 0.1), 1.0, 0.05))
    one, many = (slab.deviation for slab in slabs)
    assert one.max == many.max <= 0.05
    assert one.rms == pytest.approx(many.rms, rel=1e-12)
    assert one.max_between == many.max_between


def test_all_that_fits_into_the_sides_is_accepted():
    limits = Settings().read_limits
    assert limits.pixels == limits.side_px**2 == 16_384**2
    wide = np.zeros((2, 16_384), np.uint8)
    wide[:, ::2] = 255
    data = nebrel.read_picture(wide / 255).data
    assert read_picture(data, "wide.png", limits).shape == (2, 16_384)
    assert ReadLimits().side_px == limits.side_px
