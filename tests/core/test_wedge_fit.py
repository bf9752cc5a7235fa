"""Materials fitted to readings of simulated wedges: intervals hold the truth, and faults of readings are told."""

import numpy as np
import pytest

from nebrel.core.height.calibrate import read_readings, wedge_steps
from nebrel.core.height.wedge_fit import COVERED, Fit, fit_material
from nebrel.core.proof.fit_audit import fit_findings

STEPS = np.concatenate([[0.0], wedge_steps(10)])
NOISE = 0.01


def lit(thickness: np.ndarray, attenuation: float, loss: float, dark: float = 0.0) -> np.ndarray:
    through = np.where(np.isinf(thickness), 0.0, (1 - loss) * np.exp(-attenuation * np.minimum(thickness, 99)))
    return np.where(thickness == 0, 1.0, through) + dark


def coded(light: np.ndarray) -> np.ndarray:
    """As pictures hold light (IEC 61966-2-1)."""
    return np.where(light <= 0.0031308, 12.92 * light, 1.055 * np.maximum(light, 1e-9) ** (1 / 2.4) - 0.055)


def shaken(light: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    return light * (1 + NOISE * rng.standard_normal(len(light)))


def measures(found: Fit) -> set[str]:
    return {finding.measure for finding in fit_findings(found)}


@pytest.mark.parametrize("wedges", [200, pytest.param(1000, marks=pytest.mark.deep)])
@pytest.mark.parametrize("dark", [0.0, 0.02])
def test_intervals_hold_the_truth_and_light_beside_the_wedge_is_told(wedges, dark):
    rng = np.random.default_rng(11)
    inside, told = np.zeros(3), 0
    for _ in range(wedges):
        attenuation, loss = rng.uniform(0.4, 1.2), rng.uniform(0.02, 0.15)
        found = fit_material(STEPS, shaken(lit(STEPS, attenuation, loss, dark), rng))
        truths = attenuation, loss, dark / (1 - loss)
        for at, (each, truth) in enumerate(
            zip((found.attenuation, found.surface_loss, found.offset), truths, strict=True)
        ):
            inside[at] += each.low <= truth <= each.high
        told += "stray-light" in measures(found)
    least = 0.94 if wedges >= 1000 else 0.91
    assert (inside / wedges >= least).all()
    assert told / wedges >= 0.99 if dark else told / wedges <= 0.05


@pytest.mark.parametrize("wedges", [150, pytest.param(1000, marks=pytest.mark.deep)])
def test_readings_of_pictures_are_recognised_and_decoded(wedges):
    rng = np.random.default_rng(12)
    told, off = 0, []
    for _ in range(wedges):
        attenuation = rng.uniform(0.4, 1.2)
        found = fit_material(STEPS, coded(shaken(lit(STEPS, attenuation, 0.08), rng)))
        told += "coded-values" in measures(found)
        if found.decoded_attenuation is not None:
            off.append(abs(found.decoded_attenuation / attenuation - 1))
    assert told / wedges >= 0.98
    assert np.median(off) < 0.01


def test_two_per_cent_of_stray_light_are_taken_off():
    found = fit_material(STEPS, lit(STEPS, 0.83, 0.1, 0.02))
    assert found.material.attenuation == pytest.approx(0.83, rel=1e-6)
    assert found.material.surface_loss == pytest.approx(0.1, abs=1e-6)
    assert found.dark_offset == pytest.approx(0.02 / 0.9, rel=1e-5)
    assert measures(found) == {"stray-light"}


def test_a_reading_in_the_dark_tells_the_offset_of_few_steps():
    steps = np.array([0.0, 0.8, 1.6, 2.4, COVERED])
    found = fit_material(steps, lit(steps, 0.9, 0.05, 0.03))
    assert found.material.attenuation == pytest.approx(0.9, rel=1e-4)
    assert measures(found) == {"stray-light", "few-steps"}
    without = fit_material(steps[:-1], lit(steps[:-1], 0.9, 0.05, 0.03))
    assert without.offset is None
    assert measures(without) == {"few-steps"}


def test_what_is_cut_off_at_the_top_is_left_out_and_told():
    read = np.minimum(lit(STEPS, 0.3, 0.02), 0.7)
    found = fit_material(STEPS, read)
    assert found.material.attenuation == pytest.approx(0.3, rel=0.03)
    assert "saturated" in measures(found)


def test_a_dim_bare_light_is_clamped_and_told():
    read = lit(STEPS, 0.8, 0.05)
    read[0] = 0.8
    found = fit_material(STEPS, read)
    assert found.material.surface_loss == 0
    assert measures(found) == {"clamped"}
    read[0] = 50.0
    found = fit_material(STEPS, read)
    assert found.material.surface_loss == 0.95
    assert "95% was taken" in fit_findings(found)[0].what


def test_whole_numbers_up_to_255_may_be_of_a_picture():
    read = np.round(255 * lit(STEPS, 0.5, 0.05) ** (1 / 2.2))
    assert "coded-values" in measures(fit_material(STEPS, read))


def test_what_light_does_not_do_is_told_as_a_bend():
    """Where the covered light was read, no offset can stand for the bend."""
    steps = np.append(STEPS, COVERED)
    read = np.append(lit(STEPS, 0.3, 0.05) * np.exp(-0.04 * STEPS**2), 1e-6)
    assert "curved" in measures(fit_material(steps, read))


def test_clean_readings_give_no_doubt():
    found = fit_material(STEPS, shaken(lit(STEPS, 0.8, 0.1), np.random.default_rng(3)))
    assert measures(found) == set()


def test_the_covered_light_is_a_line_of_its_own():
    thickness, brightness = read_readings("mm,brightness\n0,1\n0.4,0.7\nDark,0.02\n")
    assert thickness.tolist() == [0, 0.4, COVERED]
    assert brightness.tolist() == [1, 0.7, 0.02]
