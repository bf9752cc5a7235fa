"""Families of made-up shapes, each drawn from a seed."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from training.solids import BOX, CONE, OVAL, RING, Piece

_Floats = NDArray[np.float64]
_Rng = np.random.Generator


def axes_to(direction: _Floats, rng: _Rng) -> _Floats:
    """A frame, (3, 3), whose Y runs along a direction."""
    up = direction / max(float(np.linalg.norm(direction)), 1e-9)
    side = np.cross(up, _unit(rng.normal(size=3)))
    side /= max(float(np.linalg.norm(side)), 1e-9)
    return np.column_stack([side, up, np.cross(side, up)])


def turned(yaw: float, pitch: float = 0.0, roll: float = 0.0) -> _Floats:
    """A turn about Y, then X, then Z, (3, 3); radians."""
    a, b, c = (np.array([np.cos(angle), np.sin(angle)]) for angle in (yaw, pitch, roll))
    about_y = np.array([[a[0], 0, a[1]], [0, 1, 0], [-a[1], 0, a[0]]])
    about_x = np.array([[1, 0, 0], [0, b[0], -b[1]], [0, b[1], b[0]]])
    about_z = np.array([[c[0], -c[1], 0], [c[1], c[0], 0], [0, 0, 1]])
    return np.asarray(about_z @ about_x @ about_y)


def oval(centre: object, size: object, blend: float = 0.04, paint: int = 0, turn: _Floats | None = None) -> Piece:
    """An ellipsoid by its half axes."""
    own = np.eye(3) if turn is None else turn
    return Piece(OVAL, np.asarray(centre, float), own, np.asarray(size, float), blend, 0.0, paint)


def limb(start: _Floats, end: _Floats, radii: tuple[float, float], blend: float, paint: int, rng: _Rng) -> Piece:
    """A round cone from one ball to another."""
    along = end - start
    long = max(float(np.linalg.norm(along)), 1e-6)
    first, last = radii
    # Between balls one of which holds the other there is no cone.
    last = min(max(last, first - 0.9 * long), first + 0.9 * long)
    return Piece(CONE, start, axes_to(along, rng), np.array([first, last, long]), blend, 0.0, paint)


def articulated(rng: _Rng) -> list[Piece]:
    """A body with a head, ears, limbs and often a tail, on two feet or four."""
    blend = rng.uniform(0.03, 0.14)
    on_two = rng.random() < 0.5
    body = np.array([rng.uniform(0.2, 0.4), rng.uniform(0.25, 0.5), rng.uniform(0.2, 0.4)])
    if not on_two:
        body = body[[1, 0, 2]]
    pieces = [oval((0, 0, 0), body, blend)]
    if rng.random() < 0.6:
        pieces.append(
            oval(rng.normal(0, 0.1, 3) + _vector(0, -0.5 * body[1], 0), body * rng.uniform(0.7, 1.1, 3), blend)
        )
    head_at = np.array([0, body[1], 0]) if on_two else np.array([body[0] * rng.choice([-1, 1]), body[1], 0])
    head_at = head_at * rng.uniform(0.9, 1.4) + rng.normal(0, 0.06, 3)
    head = rng.uniform(0.14, 0.32) * rng.uniform(0.8, 1.25, 3)
    pieces.append(oval(head_at, head, blend, int(rng.integers(3))))
    facing = _unit(rng.normal(size=3) * [1, 0.3, 0.6] + [0, 0, 0.8])
    if rng.random() < 0.6:
        snout = head_at + facing * head.mean()
        pieces.append(oval(snout, head.mean() * rng.uniform(0.3, 0.7, 3), blend / 2, int(rng.integers(4))))
    if rng.random() < 0.75:
        pieces += _pair_of_ears(rng, head_at, head, facing, blend)
    joints = rng.integers(1, 3)
    for level in (0.5, -0.8) if on_two else (-0.4,):
        for side in (-1, 1):
            for end in (0,) if on_two else (-1, 1):
                start = np.array([side * 0.8 * body[0], level * body[1], 0.0]) if on_two else np.array(
                    [end * 0.7 * body[0], level * body[1], side * 0.7 * body[2]]
                )  # fmt: skip
                pieces += _jointed(rng, start, level < 0, joints, blend)
    if rng.random() < 0.5:
        start = np.array([0, -0.5 * body[1], -body[2]])
        pieces += _jointed(rng, start, False, int(rng.integers(1, 4)), blend, thin=0.6)
    return pieces


def blobs(rng: _Rng) -> list[Piece]:
    """Balls of many forms that grew together, sometimes with dents."""
    blend = rng.uniform(0.04, 0.25)
    place, pieces = np.zeros(3), []
    for number in range(int(rng.integers(3, 9))):
        size = rng.uniform(0.12, 0.42) * rng.uniform(0.6, 1.5, 3)
        pieces.append(oval(place, size, blend, int(rng.integers(3)), _any_turn(rng)))
        place = pieces[rng.integers(number + 1)].centre + _unit(rng.normal(size=3)) * rng.uniform(0.15, 0.5)
    for _ in range(int(rng.integers(0, 3))):
        place = pieces[rng.integers(len(pieces))].centre + _unit(rng.normal(size=3) + _vector(0, 0, 0.7)) * 0.35
        pieces.append(oval(place, rng.uniform(0.08, 0.2, 3), -rng.uniform(0.02, 0.08)))
    return pieces


def lathed(rng: _Rng) -> list[Piece]:
    """What is turned about an upright axis, some with handles, spouts and lids."""
    count = int(rng.integers(3, 9))
    heights = np.linspace(-0.5, 0.5, count)
    radii = 0.12 + 0.3 * np.abs(np.sin(rng.uniform(0, 3) + rng.uniform(0.5, 2.5) * np.pi * (heights + 0.5)))
    radii *= rng.uniform(0.8, 1.2, count)
    blend = rng.uniform(0.02, 0.12)
    pieces = []
    for at in range(count - 1):
        start, end = np.array([0, heights[at], 0]), np.array([0, heights[at + 1], 0])
        if rng.random() < 0.5:
            flat = np.array([radii[at], rng.uniform(0.06, 0.25), radii[at]])
            pieces.append(oval(start, flat, blend, int(rng.integers(2))))
        else:
            pieces.append(limb(start, end, (radii[at], radii[at + 1]), blend, int(rng.integers(2)), rng))
    if rng.random() < 0.6:
        for side in (-1, 1) if rng.random() < 0.35 else (int(rng.choice([-1, 1])),):
            centre = np.array([side * radii.max() * rng.uniform(0.9, 1.2), rng.uniform(-0.2, 0.25), 0])
            size = np.array([rng.uniform(0.12, 0.25), rng.uniform(0.03, 0.07), 1.0])
            pieces.append(Piece(RING, centre, turned(0, np.pi / 2), size, blend / 2, 0.0, 2))
    if rng.random() < 0.4:
        start = np.array([radii.max() * 0.7, 0, 0])
        end = start + _vector(rng.uniform(0.15, 0.35), rng.uniform(0.1, 0.45), 0)
        pieces.append(limb(start, end, (rng.uniform(0.05, 0.1), rng.uniform(0.03, 0.06)), blend, 2, rng))
    if rng.random() < 0.4:
        pieces.append(oval((0, 0.5 + rng.uniform(0.05, 0.2), 0), rng.uniform(0.05, 0.12, 3), blend / 2, 3))
    return pieces


def hard(rng: _Rng) -> list[Piece]:
    """Boxes, rods and rings that stand on each other, with holes."""
    pieces: list[Piece] = []
    top = -0.5
    for _ in range(int(rng.integers(2, 6))):
        size = rng.uniform(0.08, 0.4, 3)
        centre = np.array([rng.normal(0, 0.12), top + size[1], rng.normal(0, 0.12)])
        turn = turned(rng.uniform(-0.6, 0.6)) if rng.random() < 0.5 else np.eye(3)
        pick, sharp, paint = rng.random(), rng.uniform(0.004, 0.03), int(rng.integers(3))
        if pick < 0.6:
            pieces.append(Piece(BOX, centre, turn, size, sharp, rng.uniform(0.005, 0.06), paint))
        elif pick < 0.85:
            long = _unit(rng.normal(size=3)) * rng.uniform(0.2, 0.6)
            pieces.append(limb(centre - long / 2, centre + long / 2, (size[0] / 2, size[0] / 2), sharp, paint, rng))
        else:
            ring = np.array([0.1 + size[0] / 2, 0.03 + size[2] / 6, 1.0])
            pieces.append(Piece(RING, centre, _any_turn(rng), ring, sharp, 0.0, paint))
        top = centre[1] + rng.uniform(-0.5, 0.9) * size[1]
    for _ in range(int(rng.integers(0, 3))):
        host = pieces[rng.integers(len(pieces))]
        into = host.centre + rng.normal(0, 0.1, 3) + [0, 0, 0.15]
        pieces.append(Piece(BOX, into, _any_turn(rng), rng.uniform(0.04, 0.2, 3), -0.01, 0.01, 3))
    return pieces


def plants(rng: _Rng) -> list[Piece]:
    """Stems with caps, petals, fruits and leaves."""
    blend = rng.uniform(0.02, 0.07)
    lean = rng.normal(0, 0.12, 3) * [1, 0, 1]
    top = np.array([0, 0.25, 0]) + lean
    stem = rng.uniform(0.04, 0.14)
    pieces = [limb(np.array([0.0, -0.5, 0.0]), top, (stem * rng.uniform(0.8, 1.6), stem), blend, 0, rng)]
    if rng.random() < 0.5:
        wide = rng.uniform(0.25, 0.5)
        pieces.append(oval(top, (wide, rng.uniform(0.12, 0.35), wide), blend, 1, turned(0, *rng.normal(0, 0.25, 2))))
        if rng.random() < 0.5:
            pieces.append(oval(top - [0, 0.12, 0], (0.75 * wide, 0.12, 0.75 * wide), -0.03, 2))
    else:
        petals, tilt = int(rng.integers(4, 9)), rng.uniform(-0.4, 1.2)
        for turn in np.arange(petals) * 2 * np.pi / petals:
            own = turned(turn) @ turned(0, tilt)
            centre = top + own @ np.array([0, 0, 0.24])
            pieces.append(oval(centre, (0.11, 0.04, 0.22), blend, 1 + int(turn > np.pi), own))
        pieces.append(oval(top, (0.1, 0.09, 0.1), blend, 3))
    for _ in range(int(rng.integers(0, 4))):
        at = rng.uniform(-0.4, 0.15)
        own = turned(rng.uniform(0, 6.3), rng.normal(0, 0.5))
        centre = np.array([0, at, 0]) + lean * (at + 0.5) + own @ np.array([0, 0, 0.2])
        pieces.append(oval(centre, (0.09, 0.03, 0.2), blend, 2, own))
    return pieces


def birds(rng: _Rng) -> list[Piece]:
    """Bodies with beaks, wings, tails and two legs. Held out: nothing is trained on them."""
    blend = rng.uniform(0.03, 0.09)
    lean = turned(0, 0, rng.uniform(-0.7, 0.7))
    body = np.array([rng.uniform(0.2, 0.3), rng.uniform(0.3, 0.42), rng.uniform(0.2, 0.3)])
    pieces = [oval((0, 0, 0), body, blend, 0, lean)]
    head_at = lean @ np.array([0, body[1] * rng.uniform(0.9, 1.3), 0]) + [0, 0, rng.uniform(-0.05, 0.15)]
    head = rng.uniform(0.13, 0.22)
    pieces.append(oval(head_at, head * rng.uniform(0.85, 1.15, 3), blend, 0))
    ahead = _unit(rng.normal(size=3) * [1, 0.3, 0.3] + [0, 0, 0.7])
    tip = head_at + ahead * head * rng.uniform(1.6, 2.6)
    pieces.append(limb(head_at + ahead * 0.7 * head, tip, (0.4 * head, 0.06 * head), 0.01, 3, rng))
    for side in (-1, 1):
        own = lean @ turned(side * rng.uniform(0, 0.6), rng.uniform(-0.4, 0.4), side * rng.uniform(-0.2, 0.9))
        centre = lean @ np.array([side * body[0] * 0.95, 0.05, 0.0])
        pieces.append(oval(centre, (0.07, rng.uniform(0.2, 0.34), rng.uniform(0.12, 0.2)), 0.03, 1, own))
        foot = np.array([side * 0.1, -body[1] - rng.uniform(0.08, 0.25), 0.05])
        pieces.append(limb(np.array([side * 0.1, -0.8 * body[1], 0.0]), foot, (0.035, 0.03), 0.02, 3, rng))
        pieces.append(oval(foot + _vector(0, 0, 0.05), (0.06, 0.025, 0.1), 0.02, 3))
        pieces.append(oval(head_at + ahead * 0.5 * head + [side * 0.5 * head, 0.3 * head, 0.2], (0.03,) * 3, 0.01, 2))
    tail = lean @ np.array([0, -body[1], -0.1])
    pieces.append(oval(tail, (0.12, 0.2, 0.04), 0.04, 1, lean @ turned(0, rng.uniform(-0.2, 0.7))))
    return pieces


def branching(rng: _Rng) -> list[Piece]:
    """Limbs that fork to all sides, as corals and trees do. Held out: nothing is trained on them."""
    pieces = [oval((0, 0, 0), rng.uniform(0.12, 0.22, 3), 0.06)]
    ends = [(np.zeros(3), _unit(rng.normal(size=3)), rng.uniform(0.06, 0.1)) for _ in range(int(rng.integers(3, 6)))]
    for _ in range(2):
        further = []
        for start, direction, radius in ends:
            end = start + direction * rng.uniform(0.22, 0.4)
            pieces.append(limb(start, end, (radius, 0.75 * radius), 0.04, int(rng.integers(2)), rng))
            further += [(end, _unit(direction + 0.7 * rng.normal(size=3)), 0.75 * radius) for _ in range(2)]
        ends = further
    return pieces


Family = Callable[[_Rng], list[Piece]]
# How much of the training each takes.
TRAINED: dict[Family, float] = {articulated: 0.36, blobs: 0.22, lathed: 0.16, hard: 0.12, plants: 0.14}
HELD_OUT: tuple[Family, ...] = (birds, branching)


def placed(pieces: list[Piece], turn: _Floats) -> list[Piece]:
    """The pieces of a solid, turned as one."""
    return [
        Piece(each.kind, turn @ each.centre, turn @ each.turn, each.size, each.blend, each.round_by, each.paint)
        for each in pieces
    ]


def any_view(rng: _Rng) -> _Floats:
    """A view as people draw things: rather level, from the front, half aside, or aside."""
    yaw = rng.normal(0, 0.5) + (rng.choice([0, np.pi / 2, np.pi, -np.pi / 2]) if rng.random() < 0.4 else 0)
    return turned(yaw, rng.normal(0.12, 0.15), rng.normal(0, 0.08))


def _pair_of_ears(rng: _Rng, head_at: _Floats, head: _Floats, facing: _Floats, blend: float) -> list[Piece]:
    side = _unit(np.cross([0.0, 1.0, 0.0], facing))
    long, wide, apart = rng.uniform(0.06, 0.34), rng.uniform(0.04, 0.1), rng.uniform(0.3, 0.8)
    ears = []
    for way in (-1, 1):
        out = _unit(np.array([0, 1.0, 0]) + way * side * rng.uniform(0, 0.7) + rng.normal(0, 0.12, 3))
        root = head_at + way * side * apart * head[0] + [0, 0.7 * head[1], 0]
        size = (wide, long, rng.uniform(0.4, 1) * wide)
        ears.append(oval(root + out * 0.6 * long, size, blend / 2, 1, axes_to(out, rng)))
    return ears


def _jointed(rng: _Rng, start: _Floats, down: bool, joints: int, blend: float, thin: float = 1.0) -> list[Piece]:
    radius, paint = thin * rng.uniform(0.05, 0.13), int(rng.integers(3))
    direction = _unit(rng.normal(size=3) * 0.7 + ([0, -1.2, 0] if down else [0, 0, 0.3]))
    pieces = []
    for _ in range(joints):
        end = start + direction * rng.uniform(0.15, 0.34)
        pieces.append(limb(start, end, (radius, 0.8 * radius), blend / 2, paint, rng))
        start, radius = end, 0.8 * radius
        direction = _unit(direction + rng.normal(0, 0.5, 3))
    if rng.random() < 0.6:
        pieces.append(oval(start, radius * rng.uniform(1.0, 2.0, 3), blend / 2, paint))
    return pieces


def _any_turn(rng: _Rng) -> _Floats:
    turn, _ = np.linalg.qr(rng.normal(size=(3, 3)))
    return np.asarray(turn * np.sign(np.linalg.det(turn)))


def _vector(x: float, y: float, z: float) -> _Floats:
    return np.array([x, y, z], dtype=np.float64)


def _unit(vector: _Floats) -> _Floats:
    return np.asarray(vector / max(float(np.linalg.norm(vector)), 1e-9))
