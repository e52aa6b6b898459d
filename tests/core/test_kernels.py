"""What the compiled passes rest on: Numba's private parts, and arguments that find their places by name."""

import numpy as np
import pytest
from numba import njit

from plindro.core.numeric.kernels import ALLOCATING, OPTIONS, prefetch
from plindro.core.polygons import triangulate
from plindro.core.reduction import arguments, collapse
from plindro.core.reduction.merge import merge
from plindro.core.reduction.sweep import sweep
from tests.shapes import bumpy_sphere

# Code that comes from the cache cannot be looked into.
_FRESH = {**OPTIONS, "cache": False}


@njit(forceinline=True, **_FRESH)
def _last(values):  # type: ignore[no-untyped-def]
    return values[len(values) - 1]


@njit(**_FRESH)
def _sum(values, others):  # type: ignore[no-untyped-def]
    total = 0.0
    for i in range(len(values)):
        prefetch(others, i + 1_000_000)
        total += values[i] + _last(others)
    return total


@njit(**{**ALLOCATING, "cache": False})
def _first_of_new(n):  # type: ignore[no-untyped-def]
    return np.zeros(n)[0]


@njit(**_FRESH)
def _asks(n):  # type: ignore[no-untyped-def]
    return _first_of_new(n)


def test_a_kernel_may_be_the_first_to_call_what_makes_arrays() -> None:
    """``allocating`` must not be compiled as the kernel is that asks for it: without."""
    assert _asks(12) == 0.0


def test_private_parts_of_numba_do_what_they_are_used_for() -> None:
    """A new Numba that breaks this needs another ``OPTIONS`` or ``prefetch`` in ``numeric.kernels``."""
    assert _sum(np.arange(4.0), np.ones(3)) == 10.0, "prefetching changes a result, or reads where it must not"
    code = next(iter(_sum.inspect_llvm().values()))
    assert "call void @llvm.prefetch" in code, "prefetch is not the processor's hint any more"
    assert "NRT_incref" not in code, "arrays are counted at each call: '_nrt' is not heeded any more"
    machine = next(iter(_sum.inspect_asm().values()))
    assert "_last" not in [line.split()[-1] for line in machine.splitlines() if line.strip().startswith("call")], (
        "helpers are not inlined any more"
    )


@pytest.mark.parametrize("kernel", [merge, sweep])
def test_every_array_of_a_pass_is_declared_once(kernel) -> None:
    names = arguments.parameters(kernel)[0]
    plain = set(names) - set(arguments.ARRAYS)
    assert plain <= {
        "n_order", "lines_move", "limit", "least_triangles", "floor", "flat", "has_normals", "has_wedges",
    }  # fmt: skip
    assert len(set(names)) == len(names)


def test_an_array_of_another_type_is_refused_before_the_pass(monkeypatch: pytest.MonkeyPatch) -> None:
    mesh = triangulate(bumpy_sphere(6)).mesh
    assert collapse(mesh).n_steps > 0
    monkeypatch.setitem(arguments.ARRAYS, "quadrics", (np.float64, 2))
    with pytest.raises(TypeError, match="'quadrics' is float32 of 2 dimensions, not float64"):
        collapse(mesh)
    monkeypatch.delitem(arguments.ARRAYS, "quadrics")
    with pytest.raises(TypeError, match="'quadrics' is an array that is not declared"):
        collapse(mesh)
