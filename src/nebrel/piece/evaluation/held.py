"""How much memory a result holds, whatever it is made of."""

import sys
from dataclasses import fields, is_dataclass

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

COORDINATE_BYTES = 16
GEOMETRY_BYTES = 200


def held_bytes(result: object) -> int:
    """Bytes that a result of arrays, bytes, containers and dataclasses of them keeps from being freed.

    What is reached twice counts once, and a view of an array counts as the array that it keeps alive. Values that a
    dataclass works out once and keeps (`cached_property`) count as soon as they are there.
    """
    return _held(result, set())


def _held(value: object, seen: set[int]) -> int:
    if value is None or id(value) in seen:
        return 0
    seen.add(id(value))
    if isinstance(value, np.ndarray):
        return _array_bytes(value, seen)
    if isinstance(value, BaseGeometry):
        return _geometry_bytes(value)
    own = sys.getsizeof(value, 64)
    if isinstance(value, dict):
        return own + sum(_held(key, seen) + _held(each, seen) for key, each in value.items())
    if isinstance(value, list | tuple | set | frozenset):
        return own + sum(_held(each, seen) for each in value)
    kept = getattr(value, "__dict__", None)
    if kept is not None and not isinstance(value, type):
        return own + sum(_held(each, seen) for each in kept.values())
    if is_dataclass(value) and not isinstance(value, type):
        return own + sum(_held(getattr(value, field.name), seen) for field in fields(value))
    return own


def _array_bytes(array: np.ndarray, seen: set[int]) -> int:
    owner = array
    while isinstance(owner.base, np.ndarray):
        owner = owner.base
    if owner is not array:
        if id(owner) in seen:
            return 0
        seen.add(id(owner))
    held = int(owner.nbytes)
    if array.dtype == object:
        held += sum(_held(each, seen) for each in array.ravel())
    return held


def _geometry_bytes(geometry: BaseGeometry) -> int:
    parts = shapely.get_parts(geometry)
    rings = len(parts) + int(shapely.get_num_interior_rings(parts).clip(0).sum())
    return GEOMETRY_BYTES * rings + COORDINATE_BYTES * int(shapely.get_num_coordinates(geometry))
