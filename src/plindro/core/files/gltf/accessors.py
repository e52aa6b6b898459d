"""Accessors: typed arrays out of buffer views, with stride, normalisation and sparse substitution."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from plindro.core.files.gltf.container import Document

# glTF 2.0, section 3.6.2.2
COMPONENT_TYPES = {5120: np.int8, 5121: np.uint8, 5122: np.int16, 5123: np.uint16, 5125: np.uint32, 5126: np.float32}
TYPE_WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT2": 4, "MAT3": 9, "MAT4": 16}


def read_accessor(document: Document, index: Any) -> NDArray[Any]:
    """Values of an accessor as (count, width); normalised integers become float32 in -1..1 or 0..1."""
    row = document.row("accessors", index)
    count = document.integer(row, "count")
    dtype = _dtype(document, row.get("componentType"), index)
    width = TYPE_WIDTHS.get(str(row.get("type")), 0)
    if not width:
        raise document.fail(f"accessors[{index}] is of the unknown type {row.get('type')!r}")
    if row.get("bufferView") is None:
        _check_plausible(document, index, count)
        values: NDArray[Any] = np.zeros((count, width), dtype)
    else:
        offset = document.integer(row, "byteOffset", 0)
        values = _read_view(document, row["bufferView"], offset, count, dtype, width, f"accessors[{index}]")
    sparse = row.get("sparse")
    if isinstance(sparse, dict):
        values = _substitute(document, sparse, values, dtype, width, index)
    return _normalised(values) if row.get("normalized") is True and dtype != np.float32 else values


def _check_plausible(document: Document, index: Any, count: int) -> None:
    if count > 200_000_000:
        raise document.fail(f"accessors[{index}] asks for {count} values without data")


def _dtype(document: Document, component: Any, index: Any) -> type:
    dtype = COMPONENT_TYPES.get(component) if isinstance(component, int) else None
    if dtype is None:
        raise document.fail(f"accessors[{index}] has the unknown component type {component!r}")
    return dtype


def _read_view(
    document: Document, view: Any, offset: int, count: int, dtype: type, width: int, what: str
) -> NDArray[Any]:
    data, stride = document.view(view)
    item = np.dtype(dtype).itemsize * width
    stride = stride or item
    if stride < item:
        raise document.fail(f"{what} has a stride of {stride} bytes for items of {item}")
    needed = offset + (count - 1) * stride + item if count else 0
    if needed > len(data):
        raise document.fail(f"{what} reaches to byte {needed} of {len(data)} in its view")
    if count == 0:
        return np.zeros((0, width), dtype)
    if stride == item:
        return np.frombuffer(data, dtype, count * width, offset).reshape(count, width)
    component = np.dtype(dtype).itemsize
    span = np.frombuffer(data[offset : offset + (count - 1) * stride + item], np.uint8)
    items = np.lib.stride_tricks.as_strided(span, (count, item), (stride, 1))
    return np.ascontiguousarray(items).view(dtype).reshape(count, item // component)


def _substitute(
    document: Document, sparse: dict[str, Any], values: NDArray[Any], dtype: type, width: int, index: Any
) -> NDArray[Any]:
    count = document.integer(sparse, "count")
    where, what = sparse.get("indices"), sparse.get("values")
    if not isinstance(where, dict) or not isinstance(what, dict):
        raise document.fail(f"accessors[{index}] is sparse without indices or values")
    place = f"the sparse part of accessors[{index}]"
    offset = document.integer(where, "byteOffset", 0)
    index_type = _dtype(document, where.get("componentType"), index)
    targets = _read_view(document, where.get("bufferView"), offset, count, index_type, 1, place).reshape(-1)
    offset = document.integer(what, "byteOffset", 0)
    news = _read_view(document, what.get("bufferView"), offset, count, dtype, width, place)
    if count and int(targets.max()) >= len(values):
        raise document.fail(f"{place} names item {int(targets.max())} of {len(values)}")
    values = values.copy()
    values[targets.astype(np.int64)] = news
    return values


def _normalised(values: NDArray[Any]) -> NDArray[np.float32]:
    limit = np.float32(np.iinfo(values.dtype).max)
    return np.maximum(values.astype(np.float32) / limit, np.float32(-1.0))
