"""How compiled functions over flat arrays are declared, and what rests on private parts of Numba (so does ``lanes``).

``_nrt=False`` compiles without Numba's reference counts. A helper that takes a dozen arrays otherwise counts each of
them up and down, atomically, at every call, which took a third of the time of a collapse. Such a kernel cannot make
arrays: what it needs to write to is given to it.

``prefetch`` asks for memory before it is needed. A kernel that hops through large arrays in an order that it knows
waits, hop by hop, for memory that it could have asked for long before. This is the processor's own hint; it changes no
result.
"""

from typing import Any

import numpy as np
from llvmlite import ir
from numba import njit
from numba.core import cgutils, types
from numba.core.imputils import impl_ret_untracked
from numba.extending import intrinsic
from numba.np.arrayobj import make_array

OPTIONS: dict[str, Any] = {
    "cache": True,
    "nogil": True,
    "error_model": "numpy",
    "_nrt": False,
    "no_cfunc_wrapper": True,
}
kernel = njit(**OPTIONS)
"""A function that is called from Python."""
_UNSEEN: dict[str, Any] = {"no_cpython_wrapper": True}
_INSIDE: dict[str, Any] = {"forceinline": True, **_UNSEEN}
helper = njit(**_INSIDE, **OPTIONS)
"""A function that becomes part of each kernel that calls it. What Python would need to call it is not compiled: that
took a third of the time."""
inner = njit(**_UNSEEN, **OPTIONS)
"""A function that kernels call and that stays one: what is long and called from several places would be compiled at
each of them otherwise."""
ALLOCATING: dict[str, Any] = {"cache": True, "nogil": True, "_nrt": True}
allocating = njit(**ALLOCATING)
"""A function that makes arrays and is called by kernels. Were it not said, it would be compiled as the kernel that asks
for it first is: without."""
index: Any = np.int64
"""The one size of numbers that kernels hand on, read from arrays of whichever: for each other size, and for a literal,
what takes them would be compiled once more."""
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
