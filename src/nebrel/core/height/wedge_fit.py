"""What a material keeps back per mm and at its surfaces, from brightness read behind a step wedge.

Fitted by least squares to readings as they are, each weighed by itself, since a reading is off by a share of what it
reads; intervals follow from the curvature there and from Student's t (Bates and Watts, "Nonlinear Regression Analysis
and Its Applications", 1988).
"""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError
from nebrel.core.height.transmission import TranslucentMaterial
from nebrel.core.picture.srgb import decode_srgb

Floats = NDArray[np.float64]
FEWEST_STEPS, ENOUGH_STEPS = 3, 5
MOST_LOSS = 0.95
# A little more than is told, since the curve is not quite straight where it is fitted.
SURE = 0.96
CURVED_BELOW = 1e-3
# Below this share of the brightest, readings are off by the reader's own noise rather than by a share of themselves.
FLOOR = 1e-6
# By how much the logarithm of a thicker step may read more.
NOISE_RISE = 0.08
WHOLE_BITS = 255
COVERED = math.inf


@dataclass(frozen=True)
class Interval:
    """Within which a value lies 95 times of 100."""

    low: float
    high: float


@dataclass(frozen=True)
class Fit:
    """A fitted material, and what was noticed about its readings.

    Attributes:
        material: attenuation and surface loss; the loss is 0 when no bare light was read.
        bare: whether the bare light was read, so that the surface loss is known.
        dark_offset: share of the light behind a wall of no thickness that is read though no light comes through.
        residuals: float64 (N,) share by which every reading is brighter than the fit.
        rms: of the residuals of steps.
        attenuation_error: standard error of the attenuation, per mm.
        attenuation, surface_loss, offset: intervals of 95 %; None for what could not be fitted.
        steps: how many thicknesses were read.
        clamped: whether the surface loss came out as none that a material can have.
        saturated: whether more than one thickness reads the same largest value.
        whole_numbers: whether all readings are whole numbers up to 255, as pictures hold them.
        decoded_attenuation: per mm, if readings are coded as pictures are (sRGB); None where that fits worse.
        curved: whether what is left over bends, though a dark offset was taken off.
    """

    material: TranslucentMaterial
    bare: bool
    dark_offset: float
    residuals: Floats
    rms: float
    attenuation_error: float
    attenuation: Interval
    surface_loss: Interval | None
    offset: Interval | None
    steps: int
    clamped: bool
    saturated: bool
    whole_numbers: bool
    decoded_attenuation: float | None
    curved: bool


@dataclass(frozen=True)
class _Readings:
    """Thicknesses, 0 the bare light and infinite where it was covered, and what was read there."""

    thick: Floats
    bright: Floats

    @property
    def steps(self) -> NDArray[np.bool_]:
        return (self.thick > 0) & np.isfinite(self.thick)

    @property
    def scales(self) -> Floats:
        """By how much a reading may be off, but for a factor that all share."""
        return np.maximum(self.bright, FLOOR * self.bright.max())


@dataclass(frozen=True)
class _Curve:
    """Best values: attenuation, light behind a wall of no thickness, dark offset, bare light; and how they vary."""

    values: Floats
    deviations: Floats
    covariance: Floats
    freedom: int
    left: float


def fit_material(thickness: Floats, brightness: Floats) -> Fit:
    """Attenuation, surface loss and dark offset from brightness read at known thicknesses.

    The brightness falls by the same share with every mm, towards what is read though no light comes through. A reading
    at thickness 0 is the bare light: what the curve lacks of it there is lost at the surfaces. One at an infinite
    thickness is read with the light covered. Below five steps no dark offset is fitted unless that was read.

    Args:
        thickness: (N,) mm.
        brightness: (N,) in any unit that is proportional to luminance.

    Raises:
        BadValueError: too few readings, readings of nothing, or readings that do not fall as thickness grows.
    """
    if len(thickness) != len(brightness):
        raise BadValueError("Every step needs one thickness and one reading.")
    if np.isnan(thickness).any() or not np.isfinite(brightness).all():
        raise BadValueError("A reading is not a number; numbers for thickness in mm and brightness are needed.")
    _refuse_impossible(thickness, brightness)
    most = brightness.max()
    kept = _not_cut_off(thickness, brightness)
    readings = _Readings(thickness[kept], brightness[kept])
    _refuse_rising(readings)
    found = _fitted(readings)
    attenuation, start, dark, _ = found.values
    bare = bool((readings.thick == 0).any())
    lost = 1 - start / found.values[3] if bare else 0.0
    spread = _quantile(found.freedom)
    residuals = brightness / np.maximum(_read(found.values, thickness), 1e-300) - 1
    steps = readings.steps
    left = residuals[kept][steps]
    by_offset = found.covariance[2, 2] > 0
    return Fit(
        material=TranslucentMaterial(float(attenuation), float(np.clip(lost, 0.0, MOST_LOSS))),
        bare=bare,
        dark_offset=float(dark / start),
        residuals=residuals,
        rms=float(np.sqrt(np.mean(left**2))),
        attenuation_error=float(attenuation * found.deviations[0]),
        attenuation=_factors(float(attenuation), spread * found.deviations[0]),
        surface_loss=_loss_interval(found, spread) if bare else None,
        offset=_offset_interval(found, spread) if by_offset else None,
        steps=len(np.unique(readings.thick[steps])),
        clamped=bare and not 0 <= lost <= MOST_LOSS,
        saturated=not bool(kept.all()),
        whole_numbers=bool((brightness == np.round(brightness)).all() and 1 < most <= WHOLE_BITS),
        decoded_attenuation=_decoded(readings, found),
        curved=_is_curved(readings, found),
    )


def _not_cut_off(thickness: Floats, brightness: Floats) -> NDArray[np.bool_]:
    """Which readings count: of several thicknesses that read the same largest value the thickest only, which alone can
    be true, as long as that leaves steps enough."""
    at_most = np.isfinite(thickness) & (brightness == brightness.max())
    kept = ~(at_most & (thickness < thickness[at_most].max(initial=0.0)))
    enough = len(np.unique(thickness[kept & (thickness > 0) & np.isfinite(thickness)])) >= FEWEST_STEPS
    return kept if enough else np.ones(len(thickness), dtype=np.bool_)


def _refuse_impossible(thickness: Floats, brightness: Floats) -> None:
    if (thickness < 0).any():
        raise BadValueError(f"A step is {thickness.min():g} mm thick; 0 for the bare light, or more, is accepted.")
    covered = np.isinf(thickness)
    if (brightness[~covered] <= 0).any() or (brightness < 0).any():
        raise BadValueError(f"A reading is {brightness.min():g}; brightness above 0 is needed.")
    count = len(np.unique(thickness[(thickness > 0) & ~covered]))
    if count < FEWEST_STEPS:
        raise BadValueError(f"There are readings of {count} steps; at least {FEWEST_STEPS} are needed.")


def _refuse_rising(readings: _Readings) -> None:
    """Means of logarithms must fall, but for what noise does where nearly all that is read is a dark offset."""
    levels = np.unique(readings.thick[np.isfinite(readings.thick)])
    means = np.array([np.log(readings.bright[readings.thick == level]).mean() for level in levels])
    # Few steps hold no dark offset that could be all that is left of the light.
    rising = np.flatnonzero(np.diff(means) >= (NOISE_RISE if len(levels) > ENOUGH_STEPS else 0.0))
    if len(rising) or means[-1] >= means[0]:
        at = int(rising[0]) if len(rising) else 0
        raise BadValueError(
            f"The step of {levels[at + 1]:.4g} mm reads as bright as or brighter than that of {levels[at]:.4g} mm; "
            "readings that fall as the steps get thicker are needed."
        )


def _read(values: Floats, thick: Floats) -> Floats:
    """What would be read at thicknesses."""
    attenuation, start, dark, bare = values
    through = np.where(np.isinf(thick), 0.0, start * np.exp(-attenuation * np.minimum(thick, 1e9)))
    return np.asarray(np.where(thick == 0, bare, through) + dark)


def _fitted(readings: _Readings) -> _Curve:
    """The curve of least squares, looked for from the straight line through logarithms."""
    from scipy.optimize import least_squares

    thick, bright, scales, steps = readings.thick, readings.bright, readings.scales, readings.steps
    slope, level = np.polyfit(thick[steps], np.log(bright[steps]), 1)
    bare, covered = thick == 0, np.isinf(thick)
    free = len(np.unique(thick[steps])) >= ENOUGH_STEPS or bool(covered.any())
    unit = math.exp(level)
    first = [math.log(max(-slope, 1e-6)), 0.0] + ([0.0] if free else []) + ([0.0] if bare.any() else [])

    def values_of(given: Floats) -> Floats:
        dark = given[2] * unit if free else 0.0
        lit = unit * math.exp(given[-1]) if bare.any() else unit
        return np.array([math.exp(given[0]), unit * math.exp(given[1]), dark, lit])

    def off(given: Floats) -> Floats:
        return np.asarray((_read(values_of(given), thick) - bright) / scales)

    fit = least_squares(off, first, method="lm", xtol=1e-12, ftol=1e-12, gtol=1e-12, max_nfev=2000)
    freedom, slopes = max(len(thick) - len(first), 1), np.asarray(fit.jac)
    covariance = np.zeros((4, 4))
    at = [0, 1] + ([2] if free else []) + ([3] if bare.any() else [])
    scatter = float((fit.fun**2).sum()) / freedom
    covariance[np.ix_(at, at)] = scatter * np.linalg.pinv(slopes.T @ slopes)
    covariance[2] *= unit
    covariance[:, 2] *= unit
    deviations = np.sqrt(np.maximum(np.diag(covariance), 0.0))
    return _Curve(values_of(fit.x), deviations, covariance, freedom, float((fit.fun**2).sum()))


def _quantile(freedom: int) -> float:
    from scipy.stats import t

    return float(t.ppf((1 + SURE) / 2, freedom))


def _factors(value: float, by: float) -> Interval:
    """An interval of a value whose logarithm varies by so much."""
    by = min(by, 50.0)
    return Interval(value * math.exp(-by), value * math.exp(by))


def _loss_interval(found: _Curve, spread: float) -> Interval:
    varies = found.covariance[1, 1] + found.covariance[3, 3] - 2 * found.covariance[1, 3]
    kept = _factors(float(found.values[1] / found.values[3]), spread * math.sqrt(max(varies, 0.0)))
    return Interval(1 - kept.high, 1 - kept.low)


def _offset_interval(found: _Curve, spread: float) -> Interval:
    start, varies = found.values[1], found.covariance
    share = found.values[2] / start
    # It is a share of a light that varies itself.
    both = varies[2, 2] / start**2 - 2 * share * varies[1, 2] / start + share**2 * varies[1, 1]
    by = spread * math.sqrt(max(both, 0.0))
    return Interval(float(share - by), float(share + by))


def _decoded(readings: _Readings, found: _Curve) -> float | None:
    """The attenuation if readings are coded as those of pictures are; None unless that alone explains them.

    Coded, light that falls by the same share with every mm falls towards less than nothing, by a twentieth of the
    brightest.
    """
    if found.covariance[2, 2] <= 0:
        return None
    away = _offset_interval(found, _quantile(found.freedom))
    if away.high >= 0:
        return None
    most = float(readings.bright.max())
    # Noise reads a little more than all; far more is counted in whole numbers or in a unit of its own.
    whole = max(most, 1.0) if most < 2 else max(most, float(WHOLE_BITS))
    light = decode_srgb((readings.bright / whole).astype(np.float32)).astype(np.float64)
    if not (light > 0).all():
        return None
    decoded = _fitted(_Readings(readings.thick, light))
    return float(decoded.values[0])


def _is_curved(readings: _Readings, found: _Curve) -> bool:
    """Whether one more term, in the square of the thickness, explains significantly more of the logarithms."""
    from scipy.stats import f

    steps = readings.steps
    thick, lit = readings.thick[steps], readings.bright[steps] - found.values[2]
    if len(np.unique(thick)) < ENOUGH_STEPS + 2 or not (lit > 0).all():
        return False
    # What is left of a small rest of light is as uncertain as the whole reading.
    weights = lit / readings.scales[steps]
    logs = np.log(lit)
    plain, bent = (
        float((((np.polyval(np.polyfit(thick, logs, grade, w=weights), thick) - logs) * weights) ** 2).sum())
        for grade in (1, 2)
    )
    freedom = len(thick) - 4
    return bool(f.sf((plain - bent) / max(bent / freedom, 1e-300), 1, freedom) < CURVED_BELOW)
