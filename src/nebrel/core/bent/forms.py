"""Forms that a sheet is bent over: where every place of the sheet comes to lie, and which way its normal points.

A sheet has u to the right and v upwards, mm, as seen by a viewer in front of it. The frame of a form is the viewer's:
right, up, towards the viewer. Forms that run round are cut open at the back. Where a form cannot be unrolled, the map
is conformal: shapes keep their angles, and what changes is their size (see `scale`).
"""

import math
from abc import ABC, abstractmethod
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.bent.plan_curve import PlanCurve, round_curve
from nebrel.core.errors import BadValueError

Floats = NDArray[np.float64]
# Mercator's map ends this far from a pole that is closed, as a share of the radius; the rest is a fan.
POLE_SHARE = 0.03


class Form(ABC):
    """A surface over a sheet `width` mm wide and `height` mm high; `around` when its left and right edge are one."""

    width: float
    height: float
    around: bool
    # Whether it stands on its lower edge; what does not lies on its back.
    standing: bool
    # Whether the upper edge is drawn together to a point.
    pole: bool = False
    # Whether rows of the sheet are all alike and only lie higher.
    lifted: bool = False

    @abstractmethod
    def at(self, u: Floats, v: Floats) -> tuple[Floats, Floats, Floats]:
        """Places (…, 3) mm, unit normals (…, 3), and the directions (…, 3) in which thickness grows.

        The last two differ only on the mitred edges of a form with corners. `u` and `v` are broadcast.
        """

    @abstractmethod
    def unrolled(self, points: Floats) -> Floats:
        """(u, v, thickness) mm of places near the surface, float64 (N, 3)."""

    def scale(self, v: Floats) -> Floats:
        """How large the picture is at a height of the sheet: 1 where its millimetres are true."""
        return np.ones_like(v)

    def chords(self, slack: float) -> tuple[float, float]:
        """How far lines along v and along u may stand apart for chords within `slack` mm; infinite where straight."""
        return math.inf, math.inf

    def up_from(self, v: float, along: float) -> float:
        """The v that lies `along` mm further up on the surface."""
        return v + along

    def corners(self, reach: float) -> tuple[tuple[float, float], ...]:
        """(u, clear) of mitred edges: within `clear` mm of them walls of up to `reach` mm would meet.

        `reach` is below 0 where walls grow inwards.
        """
        return ()

    @property
    def pole_place(self) -> Floats:
        """Where the upper edge meets, mm; only where `pole` is set. The normal there points up."""
        raise NotImplementedError


@dataclass(frozen=True)
class Flat(Form):
    """A plane."""

    width: float
    height: float
    around: bool = False
    standing: bool = False
    lifted: bool = True

    def at(self, u: Floats, v: Floats) -> tuple[Floats, Floats, Floats]:
        """See `Form`."""
        u, v = np.broadcast_arrays(u, v)
        normals = np.zeros((*u.shape, 3))
        normals[..., 2] = 1
        return np.stack([u, v, np.zeros_like(u)], axis=-1), normals, normals

    def unrolled(self, points: Floats) -> Floats:
        """See `Form`."""
        return points.copy()


@dataclass(frozen=True)
class Upright(Form):
    """A sheet that follows a way seen from above and stays upright: arc, cylinder, heart, prism."""

    curve: PlanCurve
    height: float
    standing: bool = True
    lifted: bool = True

    @property
    def width(self) -> float:  # type: ignore[override]
        """Length of the way, mm."""
        return self.curve.length

    @property
    def around(self) -> bool:  # type: ignore[override]
        """Whether the way closes."""
        return self.curve.closed

    def at(self, u: Floats, v: Floats) -> tuple[Floats, Floats, Floats]:
        """See `Form`."""
        flat_u = np.ravel(u)
        place, normal, grow = self.curve.at(flat_u)
        shape = np.broadcast_shapes(np.shape(u), np.shape(v))

        def lifted(two: Floats, up: Floats | float) -> Floats:
            across = two.reshape(*np.shape(u), 2)
            made = np.empty((*shape, 3))
            made[..., 0], made[..., 1], made[..., 2] = across[..., 0], up, across[..., 1]
            return made

        normals = lifted(normal, 0.0)
        return lifted(place, v), normals, normals if grow is normal else lifted(grow, 0.0)

    def unrolled(self, points: Floats) -> Floats:
        """See `Form`."""
        along, away = self.curve.nearest(points[:, [0, 2]])
        return np.column_stack([along, points[:, 1], away])

    def chords(self, slack: float) -> tuple[float, float]:
        """See `Form`."""
        return _chord(self.curve.gentlest, slack), math.inf

    def corners(self, reach: float) -> tuple[tuple[float, float], ...]:
        """See `Form`."""
        found = []
        for place, before, after in self.curve.corners:
            clear = max(0.0, reach * math.tan(math.remainder(after - before, 2 * math.pi) / 2))
            found.append((place, clear))
            if self.around and place >= self.width - 1e-7:
                found.append((0.0, clear))
        return tuple(found)


@dataclass(frozen=True)
class Cone(Form):
    """A lamp shade: round below and above, straight between. Its map is conformal; sizes are true half-way up.

    Attributes:
        bottom, top: radii, mm.
        rise: height over its foot, mm.
    """

    bottom: float
    top: float
    rise: float
    around: bool = True
    standing: bool = True

    @property
    def slant(self) -> float:
        """Length of its side, mm."""
        return math.hypot(self.rise, self.bottom - self.top)

    @property
    def _narrowing(self) -> float:
        return (self.bottom - self.top) / self.slant

    @property
    def _true_radius(self) -> float:
        return math.sqrt(self.bottom * self.top)

    @property
    def width(self) -> float:  # type: ignore[override]
        """Once round where sizes are true, mm."""
        return 2 * math.pi * self._true_radius

    @property
    def height(self) -> float:  # type: ignore[override]
        """Of the sheet, mm."""
        return self._v_of(self.slant)

    def _v_of(self, along: float) -> float:
        if abs(self._narrowing) < 1e-9:
            return along
        radius = self.bottom - along * self._narrowing
        return -math.log(radius / self.bottom) / self._narrowing * self._true_radius

    def _radius_at(self, v: Floats) -> Floats:
        return np.asarray(self.bottom * np.exp(-self._narrowing * v / self._true_radius))

    def _along(self, v: Floats) -> Floats:
        if abs(self._narrowing) < 1e-9:
            return v
        return (self.bottom - self._radius_at(v)) / self._narrowing

    def at(self, u: Floats, v: Floats) -> tuple[Floats, Floats, Floats]:
        """See `Form`."""
        lean, rise = self._narrowing, self.rise / self.slant
        return _revolve(u, self.width, self._radius_at(v), self._along(v) * rise, np.full_like(v, rise), lean)

    def unrolled(self, points: Floats) -> Floats:
        """See `Form`."""
        rise, lean = self.rise / self.slant, self._narrowing
        across = np.hypot(points[:, 0], points[:, 2]) - self.bottom
        along = -lean * across + rise * points[:, 1]
        away = rise * across + lean * points[:, 1]
        if abs(lean) < 1e-9:
            v = along
        else:
            radius = np.maximum(self.bottom - along * lean, 1e-9)
            v = -np.log(radius / self.bottom) / lean * self._true_radius
        return np.column_stack([_turn(points, self.width), v, away])

    def chords(self, slack: float) -> tuple[float, float]:
        """See `Form`."""
        return _chord(self._true_radius, slack), math.inf

    def scale(self, v: Floats) -> Floats:
        """See `Form`."""
        return self._radius_at(v) / self._true_radius

    def up_from(self, v: float, along: float) -> float:
        """See `Form`."""
        return self._v_of(float(self._along(np.array(v))) + along)


@dataclass(frozen=True)
class Globe(Form):
    """A sphere, or the part of one between two latitudes. Its map is Mercator's; sizes are true at the equator.

    Attributes:
        radius: mm.
        low, high: latitudes of its lower and upper edge, radians.
        pole: whether the upper edge is drawn together, and `high` is only where the map ends.
    """

    radius: float
    low: float
    high: float
    pole: bool = False
    around: bool = True
    standing: bool = True

    @property
    def width(self) -> float:  # type: ignore[override]
        """The equator, mm."""
        return 2 * math.pi * self.radius

    @property
    def height(self) -> float:  # type: ignore[override]
        """Of the sheet, mm."""
        return self.radius * (math.asinh(math.tan(self.high)) - self._lowest)

    @property
    def _lowest(self) -> float:
        return math.asinh(math.tan(self.low))

    @property
    def equator(self) -> float:
        """The v of the equator, mm."""
        return -self._lowest * self.radius

    @property
    def pole_place(self) -> Floats:
        """See `Form`."""
        return np.array([0.0, self.radius, 0.0])

    def _latitude(self, v: Floats) -> Floats:
        return np.asarray(np.arctan(np.sinh(v / self.radius + self._lowest)))

    def at(self, u: Floats, v: Floats) -> tuple[Floats, Floats, Floats]:
        """See `Form`."""
        latitude = self._latitude(v)
        across, up = np.cos(latitude), np.sin(latitude)
        return _revolve(u, self.width, self.radius * across, self.radius * up, across, up)

    def unrolled(self, points: Floats) -> Floats:
        """See `Form`."""
        across = np.hypot(points[:, 0], points[:, 2])
        v = self.radius * (np.arcsinh(points[:, 1] / np.maximum(across, 1e-12)) - self._lowest)
        return np.column_stack([_turn(points, self.width), v, np.linalg.norm(points, axis=1) - self.radius])

    def chords(self, slack: float) -> tuple[float, float]:
        """See `Form`."""
        return _chord(self.radius, slack), _chord(self.radius, slack)

    def scale(self, v: Floats) -> Floats:
        """See `Form`."""
        return np.cos(self._latitude(v))

    def up_from(self, v: float, along: float) -> float:
        """See `Form`."""
        latitude = float(self._latitude(np.array(v))) + along / self.radius
        latitude = min(max(latitude, self.low), math.pi / 2 - 1e-6)
        return self.radius * (math.asinh(math.tan(latitude)) - self._lowest)


def globe(diameter: float, below: float, above: float | None, half: bool = False) -> Globe:
    """A sphere with an opening of `below` mm across underneath, and one of `above` mm on top unless that is None.

    `half` leaves only what is above the equator; its opening below is the equator.

    Raises:
        BadValueError: an opening as wide as the sphere.
    """
    radius = diameter / 2
    for opening in (0.0 if half else below, above or 0.0):
        if opening >= 0.98 * diameter:
            raise BadValueError(
                f"The opening is {opening:g} mm across and the sphere {diameter:g} mm; "
                f"an opening up to {0.98 * diameter:.1f} mm would be accepted."
            )
    low = 0.0 if half else -math.acos(max(below, 2 * POLE_SHARE * radius) / diameter)
    high = math.acos(max(above or 0.0, 2 * POLE_SHARE * radius) / diameter)
    return Globe(radius, low, high, pole=above is None)


def cylinder(circumference: float, height: float) -> Upright:
    """A full turn of a cylinder."""
    return Upright(round_curve(circumference, 2 * math.pi), height)


def arc(length: float, height: float, turn: float) -> Upright:
    """Part of a cylinder: a sheet `length` mm wide bent by `turn` radians, its middle towards the viewer."""
    return Upright(round_curve(length, turn), height)


def _chord(radius: float, slack: float) -> float:
    return math.sqrt(8 * radius * slack)


def _turn(points: Floats, width: float) -> Floats:
    turn = np.arctan2(points[:, 0], points[:, 2])
    return np.asarray((turn / (2 * math.pi) + 0.5) * width)


def _revolve(
    u: Floats, width: float, radius: Floats, rise: Floats, out: Floats, up: Floats | float
) -> tuple[Floats, Floats, Floats]:
    """Places and normals of a meridian turned about the upright axis; `out` and `up` are those of its normal."""
    turn = (u / width - 0.5) * 2 * math.pi
    sine, cosine = np.sin(turn), np.cos(turn)
    shape = np.broadcast_shapes(np.shape(u), np.shape(radius))
    places, normals = np.empty((*shape, 3)), np.empty((*shape, 3))
    places[..., 0], places[..., 1], places[..., 2] = radius * sine, rise, radius * cosine
    normals[..., 0], normals[..., 1], normals[..., 2] = out * sine, up, out * cosine
    return places, normals, normals
