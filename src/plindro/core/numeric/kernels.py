"""How compiled functions over flat arrays are declared.

``_nrt=False`` compiles without Numba's reference counts. A helper that takes a dozen arrays otherwise counts each of
them up and down, atomically, at every call, which took a third of the time of a collapse. Such a kernel cannot make
arrays: what it needs to write to is given to it.
"""

from typing import Any

from numba import njit

OPTIONS: dict[str, Any] = {"cache": True, "nogil": True, "error_model": "numpy", "_nrt": False}
kernel = njit(**OPTIONS)
"""A function that is called from Python."""
helper = njit(forceinline=True, **OPTIONS)
"""A function that becomes part of each kernel that calls it."""
