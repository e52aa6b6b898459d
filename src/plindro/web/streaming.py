"""Files sent piece by piece, whole or a range of them, without a thread or their size in memory for each."""

import asyncio
import re
from collections.abc import AsyncIterator
from pathlib import Path

from django.http import HttpRequest, HttpResponse, HttpResponseBase, StreamingHttpResponse

PIECE = 256 * 1024
MEDIA_TYPES = {
    ".bin": "application/octet-stream",
    ".glb": "model/gltf-binary",
    ".jpg": "image/jpeg",
    ".mtl": "model/mtl",
    ".obj": "model/obj",
    ".png": "image/png",
    ".usdc": "model/vnd.usd",
    ".usda": "model/vnd.usda",
    ".zip": "application/zip",
}
_RANGE = re.compile(r"bytes=(\d*)-(\d*)")


def send_file(request: HttpRequest, path: Path, *, kind: str = "", name: str = "") -> HttpResponseBase:
    """The file as an answer, of a ``kind`` named by its ending; with a ``name`` it is to be saved under that.

    Raises ``FileNotFoundError``.
    """
    size = path.stat().st_size
    asked = _RANGE.fullmatch(request.headers.get("Range", ""))
    first, last = (0, size - 1) if asked is None else _bounds(asked[1], asked[2], size)
    media_type = MEDIA_TYPES.get(kind or Path(name).suffix.lower(), MEDIA_TYPES[".bin"])
    response: HttpResponseBase
    if asked is not None and not 0 <= first <= last:
        response = HttpResponse(status=416, headers={"Content-Range": f"bytes */{size}"})
    else:
        response = StreamingHttpResponse(
            _pieces(path, first, last), status=206 if asked else 200, content_type=media_type
        )
        response["Content-Length"] = str(last - first + 1)
        if asked:
            response["Content-Range"] = f"bytes {first}-{last}/{size}"
    response["Accept-Ranges"] = "bytes"
    if name:
        response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


def _bounds(first: str, last: str, size: int) -> tuple[int, int]:
    """First and last byte of a range; the last so many where it has no first."""
    if not first:
        return (max(size - int(last), 0), size - 1) if last and int(last) else (-1, -1)
    return int(first), min(int(last or size - 1), size - 1)


async def _pieces(path: Path, first: int, last: int) -> AsyncIterator[bytes]:
    with await asyncio.to_thread(path.open, "rb") as file:
        file.seek(first)
        left = last - first + 1
        while left > 0 and (piece := await asyncio.to_thread(file.read, min(PIECE, left))):
            left -= len(piece)
            yield piece
