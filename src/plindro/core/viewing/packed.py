"""Arrays in one piece of bytes, for the view.

Layout: uint32 length of the JSON header, the header padded to a multiple of four, then the arrays one after another,
little-endian, each padded to four bytes. The header lists them: ``{..., "arrays": [{"name", "type", "length"}]}``.
"""

import json
from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

_TYPES = {"u4": "uint32", "i4": "int32", "f4": "float32", "u1": "uint8"}


def pack_arrays(header: Mapping[str, Any], arrays: Mapping[str, NDArray[Any]]) -> bytes:
    """The bytes of flat arrays of four-byte numbers or of uint8."""
    rows = [
        {"name": name, "type": _TYPES[values.dtype.str[1:]], "length": len(values)} for name, values in arrays.items()
    ]
    head = json.dumps({**header, "arrays": rows}).encode()
    head += b" " * (-len(head) % 4)
    parts = [np.uint32(len(head)).tobytes(), head]
    for values in arrays.values():
        data = np.ascontiguousarray(values).tobytes()
        parts += [data, b"\0" * (-len(data) % 4)]
    return b"".join(parts)
