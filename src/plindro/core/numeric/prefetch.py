"""Asking for memory before it is needed.

A kernel that hops through large arrays in an order that it knows waits, hop by hop, for memory that it could have asked
for long before. This is the processor's own hint; it changes no result.
"""

from typing import Any

from llvmlite import ir
from numba.core import cgutils, types
from numba.core.imputils import impl_ret_untracked
from numba.extending import intrinsic
from numba.np.arrayobj import make_array

_READ, _KEEP, _DATA = 0, 3, 1
"""Arguments of LLVM's ``llvm.prefetch``: a read, kept in all caches, of data."""


def _prefetch(typing_context, array, index):  # type: ignore[no-untyped-def]
    """Ask for the cache line in which row ``index`` of ``array`` begins; any index is safe."""

    def generate(context, builder, signature, arguments):  # type: ignore[no-untyped-def]
        held = make_array(signature.args[0])(context, builder, arguments[0])
        place = context.cast(builder, arguments[1], signature.args[1], types.intp)
        offset = builder.mul(place, cgutils.unpack_tuple(builder, held.strides)[0])
        byte: Any = ir.IntType(8).as_pointer()
        at = builder.gep(builder.bitcast(held.data, byte), [offset])
        number = ir.IntType(32)
        hint = cgutils.get_or_insert_function(
            builder.module, ir.FunctionType(ir.VoidType(), [byte, number, number, number]), "llvm.prefetch.p0"
        )
        builder.call(hint, [at, number(_READ), number(_KEEP), number(_DATA)])
        return impl_ret_untracked(context, builder, signature.return_type, context.get_dummy_value())

    return types.void(array, index), generate


prefetch: Any = intrinsic(_prefetch)
