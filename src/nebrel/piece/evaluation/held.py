"""How much memory a result holds, whatever it is made of."""

import sys
from collections.abc import Iterable
from dataclasses import fields, is_dataclass
from itertools import chain

import manifold3d
import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

OBJECT_BYTES, COORDINATE_BYTES = 64, 16
GEOMETRY_BYTES = 200
PLAIN = frozenset({int, float, bool, str, bytes})


def held_bytes(result: object) -> int:
    """Bytes that a result of arrays, bytes, containers and dataclasses of them keeps from being freed.

    What is reached twice counts once, and a view of an array counts as the array that it keeps alive. Values that a
    dataclass works out once and keeps (`cached_property`) count as soon as they are there.
    """
    held, seen, waiting = 0, set(), [result]
    while waiting:
        value = waiting.pop()
        if value is None or id(value) in seen:
            continue
        seen.add(id(value))
        if type(value) in PLAIN:
            held += sys.getsizeof(value)
        elif isinstance(value, np.ndarray):
            held += _array_bytes(value, seen)
            if value.dtype == object:
                waiting += value.ravel().tolist()
        elif isinstance(value, BaseGeometry):
            held += _geometry_bytes(value)
        elif isinstance(value, manifold3d.CrossSection):
            held += GEOMETRY_BYTES + COORDINATE_BYTES * value.num_vert()
        else:
            held += sys.getsizeof(value, OBJECT_BYTES)
            waiting += _within(value)
    return held


def _within(value: object) -> Iterable[object]:
    """What a container or an object holds."""
    if isinstance(value, int | float | str | bytes | type):
        return ()
    if isinstance(value, dict):
        return chain(value.keys(), value.values())
    if isinstance(value, list | tuple | set | frozenset):
        return value
    kept = getattr(value, "__dict__", None)
    if kept is not None:
        return tuple(kept.values())
    return [getattr(value, field.name) for field in fields(value)] if is_dataclass(value) else ()


def _array_bytes(array: np.ndarray, seen: set[int]) -> int:
    """Of the array that is kept alive, unless it was counted."""
    owner = array
    while isinstance(owner.base, np.ndarray):
        owner = owner.base
    if owner is not array:
        if id(owner) in seen:
            return 0
        seen.add(id(owner))
    return int(owner.nbytes)


def _geometry_bytes(geometry: BaseGeometry) -> int:
    parts = shapely.get_parts(geometry)
    rings = len(parts) + int(shapely.get_num_interior_rings(parts).clip(0).sum())
    return GEOMETRY_BYTES * rings + COORDINATE_BYTES * int(shapely.get_num_coordinates(geometry))
