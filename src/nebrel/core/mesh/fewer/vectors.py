"""Vectors of three numbers, as tuples, in kernels."""

from nebrel.core.jit import inlined


@inlined
def minus(a, b):
    return a[0] - b[0], a[1] - b[1], a[2] - b[2]


@inlined
def cross(a, b):
    return a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]


@inlined
def dot(a, b):
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
