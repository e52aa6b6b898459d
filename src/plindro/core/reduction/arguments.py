"""The arrays that the compiled passes take: declared here once, found by their names, checked once a run.

A pass takes some forty arrays one by one, for a tuple of them would be unpacked and counted at each call. Written out
at the call, two of the same type could change places unseen; here the kernel's own parameter names say what goes where.
"""

from collections.abc import Callable, Mapping
from functools import cache
from inspect import signature
from operator import itemgetter
from typing import Any

import numpy as np

ARRAYS: dict[str, tuple[type[np.generic], int]] = {
    # What a pass works through.
    "order": (np.int32, 1),  # vertices, cheapest first
    # The surface as it stands. V vertices, W wedges, C corners, K values of a wedge.
    "positions": (np.float64, 2),  # (V, 3)
    "shading": (np.float32, 2),  # (W, 3) normals, for the side that a triangle must keep
    "quadrics": (np.float32, 2),  # (V, 13) error of the place
    "wedge_quadrics": (np.float32, 2),  # (W, columns) error of the values; empty where there are none
    "values": (np.float64, 2),  # (W, K) normals, UVs, colours, in units of length
    "start": (np.int32, 1),  # (V + 1) rows of ``around``
    "around": (np.int32, 2),  # (C, 3) the next two vertices around a vertex, and the corner
    "chain": (np.int32, 1),  # (V) the vertex whose ring was handed on, -1 at the end
    "into": (np.int32, 1),  # (V) what a vertex became in this pass
    "triangle_wedge": (np.int32, 1),  # (C)
    "wedge_into": (np.int32, 1),  # (W) what a wedge became in this pass
    # What may be done with a vertex.
    "kind": (np.uint8, 1),  # (V) FREE, LINE, LOCKED or GONE
    "line": (np.int32, 2),  # (V, 2) neighbours along a feature line
    "rim": (np.bool_, 1),  # (V) on a mirror's plane; empty where there is none
    "watch": (np.uint8, 1),  # (V) whether it marks where a handle holds a collapse back
    "cost": (np.float32, 1),  # (V) of the cheapest collapse
    "target": (np.int32, 1),  # (V) where the cheapest collapse goes
    "dirty": (np.uint8, 1),  # (V) to be evaluated anew
    "touched": (np.uint8, 1),  # (V) UNTOUCHED, SURVIVES or REMOVED in this pass
    "mark": (np.int32, 1),  # (V) stamps
    # What is written down.
    "counters": (np.int64, 1),
    "node": (np.int32, 1),  # (W) name of a wedge in the record
    "step_of": (np.int32, 1),  # (V) step at which a vertex went
    "merge_from": (np.int32, 1),
    "merge_to": (np.int32, 1),
    "merge_step": (np.int32, 1),
    "step_distance": (np.float32, 1),
    "node_place": (np.float64, 2),
    "node_values": (np.float64, 2),
    # Scratch.
    "ring": (np.int32, 2),  # (3, longest ring)
    "other_ring": (np.int32, 2),
    "ring_cost": (np.float64, 1),
    "went": (np.int32, 1),  # wedges of the vertex that goes, and where each goes
    "to": (np.int32, 1),
    "pairs": (np.int32, 2),  # (2, wedges) wedges of both ends that become one
    "rows": (np.float64, 2),  # what was solved for each value of each pair
    "axes": (np.float64, 2),  # (2, 3) normals of planes that a place keeps to
    # (5) from the vertex that survives to where it goes; what going elsewhere would cost; what its volume costs
    "place": (np.float64, 1),
}
"""Every array of the passes: dtype and number of dimensions."""


def call(kernel: Callable[..., Any], named: Mapping[str, Any], *, checked: bool = True) -> Any:
    """Call a compiled pass with what its parameters are named after.

    Raises ``KeyError`` where one is missing and, unless ``checked`` says that it was done, ``TypeError`` where an
    array is not as it is declared: Numba would compile another version of the kernel for it and say nothing.
    """
    names, pick = parameters(kernel)
    if not checked:
        for name in names:
            _check(name, named[name])
    return kernel(*pick(named))


@cache
def parameters(kernel: Callable[..., Any]) -> tuple[tuple[str, ...], Callable[[Mapping[str, Any]], tuple[Any, ...]]]:
    """The names of a kernel's parameters, and what picks their values."""
    names = tuple(signature(getattr(kernel, "py_func", kernel)).parameters)
    return names, itemgetter(*names)


def _check(name: str, value: Any) -> None:
    declared = ARRAYS.get(name)
    if isinstance(value, np.ndarray) != (declared is not None):
        raise TypeError(f"'{name}' is {'no array' if declared else 'an array that is not declared'}")
    if declared and (value.dtype != declared[0] or value.ndim != declared[1] or not value.flags.c_contiguous):
        wanted = f"{np.dtype(declared[0])} of {declared[1]} dimensions"
        raise TypeError(f"'{name}' is {value.dtype} of {value.ndim} dimensions, not {wanted} in a row")
