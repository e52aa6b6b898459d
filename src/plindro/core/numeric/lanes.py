"""Sixteen numbers side by side: memory of a kernel's own, and sums over it whose order never changes.

Memory that comes from outside may overlap with any other, so that loops over it are taken number by number; what lies
on a kernel's stack is known to be apart, and loops over it are vectorised. In 32-bit floats whole numbers up to 2²⁴ are
exact. The compiler may not reorder a sum of floats, and where it may, results differ from machine to machine: sums over
lanes are folded in halves here, always in the same order.
"""

from collections.abc import Callable
from typing import Any

import llvmlite.binding as llvm
import numpy as np
from llvmlite import ir
from numba.core import cgutils, types
from numba.core.errors import RequireLiteralValue
from numba.core.imputils import impl_ret_untracked
from numba.extending import intrinsic
from numba.np.arrayobj import make_array, populate_array

# Loops of eight and more rounds stay loops until they are vectorised; taken apart before, they are not vectorised.
llvm.set_option("plindro", "-unroll-full-max-count=7")

f32: Any = np.float32
LANES = 16
HUGE = np.float32(3.0e38)
_ALIGNED = 64
"""The width in bytes of the widest registers."""


def _made_on_stack(context, builder, array, shape):  # type: ignore[no-untyped-def]
    """An array of this type and shape whose memory is the calling kernel's own."""
    kind = context.get_data_type(array.dtype)
    count = int(np.prod(shape))
    with builder.goto_entry_block():
        memory = builder.alloca(ir.ArrayType(kind, count))
        memory.align = _ALIGNED
    width = context.get_abi_sizeof(kind)
    strides = [width * int(np.prod(shape[k + 1 :])) for k in range(len(shape))]

    def numbers(values: list[int]) -> Any:
        return cgutils.pack_array(builder, [context.get_constant(types.intp, value) for value in values])

    made = make_array(array)(context, builder)
    populate_array(
        made,
        data=builder.bitcast(memory, kind.as_pointer()),
        shape=numbers(list(shape)),
        strides=numbers(strides),
        itemsize=context.get_constant(types.intp, width),
        meminfo=None,
    )
    return impl_ret_untracked(context, builder, array, made._getvalue())


def _literal(*sizes: Any) -> tuple[int, ...]:
    if not all(isinstance(size, types.IntegerLiteral) for size in sizes):
        raise RequireLiteralValue("sizes on the stack are literal numbers")
    return tuple(size.literal_value for size in sizes)


def _stack(typing_context, size, dtype):  # type: ignore[no-untyped-def]
    """(size,) numbers that live as long as the kernel's call; they hold whatever lay there before."""
    shape, array = _literal(size), types.Array(dtype.dtype, 1, "C")

    def generate(context, builder, signature, arguments):  # type: ignore[no-untyped-def]
        return _made_on_stack(context, builder, array, shape)

    return array(size, dtype), generate


def _grid(typing_context, rows, columns, dtype):  # type: ignore[no-untyped-def]
    """(rows, columns) numbers of that kind."""
    shape, array = _literal(rows, columns), types.Array(dtype.dtype, 2, "C")

    def generate(context, builder, signature, arguments):  # type: ignore[no-untyped-def]
        return _made_on_stack(context, builder, array, shape)

    return array(rows, columns, dtype), generate


def _folding(fold: Callable[[Any, Any, Any], Any]) -> Callable[..., Any]:
    """What folds an array of 16 floats in halves to one."""

    def typed(typing_context, values):  # type: ignore[no-untyped-def]
        def generate(context, builder, signature, arguments):  # type: ignore[no-untyped-def]
            held = make_array(signature.args[0])(context, builder, arguments[0])
            vector = ir.VectorType(ir.FloatType(), LANES)
            lanes = builder.load(builder.bitcast(held.data, vector.as_pointer()), align=4)
            width = LANES
            while width > 1:
                width //= 2
                number = ir.IntType(32)
                low, high = (
                    ir.Constant(ir.VectorType(number, width), list(range(start, start + width))) for start in (0, width)
                )
                empty = ir.Constant(lanes.type, ir.Undefined)
                lanes = fold(
                    builder, builder.shuffle_vector(lanes, empty, low), builder.shuffle_vector(lanes, empty, high)
                )
            return builder.extract_element(lanes, ir.Constant(ir.IntType(32), 0))

        return types.float32(values), generate

    return typed


stack: Any = intrinsic(prefer_literal=True)(_stack)
grid: Any = intrinsic(prefer_literal=True)(_grid)
total: Any = intrinsic(_folding(lambda builder, a, b: builder.fadd(a, b)))
"""The sum of 16 floats."""
least: Any = intrinsic(_folding(lambda builder, a, b: builder.select(builder.fcmp_ordered("<", a, b), a, b)))
"""The smallest of 16 floats."""
largest: Any = intrinsic(_folding(lambda builder, a, b: builder.select(builder.fcmp_ordered(">", a, b), a, b)))
"""The largest of 16 floats."""
