"""Textures kept by what they were made of, so that what was made once is never made again."""

import hashlib
import json
import struct
from collections.abc import Callable
from dataclasses import asdict, dataclass, field
from typing import Any, Protocol

from plindro.core.blocks.codecs import Codec
from plindro.core.textures.making import TEXTURE_VERSION, MadeTexture
from plindro.core.textures.quality import Quality
from plindro.core.textures.rules import TextureSettings

_LENGTH = struct.Struct("<I")


class TextureCache(Protocol):
    """Where made textures are kept by key."""

    def get(self, key: str) -> bytes | None:
        """What is kept, or None."""

    def put(self, key: str, data: bytes) -> None:
        """Keep it; may fail silently, since it can be made again."""


@dataclass(frozen=True, slots=True)
class ReadyTexture:
    """A texture's file, and what is known of it."""

    data: bytes = field(repr=False)
    codec: Codec
    width: int
    height: int
    levels: int
    gpu_bytes: int
    is_srgb: bool
    figures: Quality
    seconds: float


def texture_key(source: str, edits: str, settings: TextureSettings) -> str:
    """The key of a texture: its source's digest, what was done to its pixels, and how it is made."""
    content = [TEXTURE_VERSION, source, edits, asdict(settings)]
    return hashlib.sha256(json.dumps(content, sort_keys=True).encode()).hexdigest()


def ready_texture(key: str, cache: TextureCache | None, make: Callable[[], MadeTexture]) -> ReadyTexture:
    """The texture that is kept under ``key``, else made and kept."""
    known = cache.get(key) if cache else None
    ready = _unpacked(known) if known else None
    if ready is None:
        ready = _of(make())
        if cache:
            cache.put(key, _packed(ready))
    return ready


def _of(made: MadeTexture) -> ReadyTexture:
    texture = made.texture
    return ReadyTexture(
        made.data, texture.codec, texture.width, texture.height, len(texture.levels), texture.gpu_bytes,
        texture.is_srgb, made.figures, round(made.seconds, 3),
    )  # fmt: skip


def _packed(ready: ReadyTexture) -> bytes:
    row: dict[str, Any] = {k: v for k, v in asdict(ready).items() if k != "data"}
    row["sha256"] = hashlib.sha256(ready.data).hexdigest()
    head = json.dumps(row).encode()
    return _LENGTH.pack(len(head)) + head + ready.data


def _unpacked(kept: bytes) -> ReadyTexture | None:
    """What was packed; None where it is damaged, so that it is made again."""
    try:
        (size,) = _LENGTH.unpack_from(kept)
        row = json.loads(kept[_LENGTH.size : _LENGTH.size + size])
        data = kept[_LENGTH.size + size :]
        if hashlib.sha256(data).hexdigest() != row.pop("sha256"):
            return None
        return ReadyTexture(data=data, **{**row, "figures": Quality(**row["figures"])})
    except (struct.error, ValueError, KeyError, TypeError):
        return None
