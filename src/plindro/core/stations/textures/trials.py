"""What each codec would give of an image, tried on a piece from its middle: evidence for the choice."""

from plindro.core.blocks.codecs import CODECS, Codec
from plindro.core.blocks.decode import decode
from plindro.core.blocks.encode import Encoding, encode
from plindro.core.mesh.mesh import F32
from plindro.core.stations.textures.facts import TrialFacts
from plindro.core.stations.textures.settings import TexturesSettings
from plindro.core.textures.codec_choice import alpha_of
from plindro.core.textures.kinds import ONE_CHANNEL
from plindro.core.textures.pixels import as_rgba, to_bytes
from plindro.core.textures.quality import psnr
from plindro.core.textures.rules import Kind

_SIDE = 128
_OF_NORMALS: tuple[Codec, ...] = ("bc1", "bc5", "bc7")
_OF_MASKS: tuple[Codec, ...] = ("bc1", "bc4", "bc7")
_OF_COLORS: tuple[Codec, ...] = ("bc1", "bc3", "bc7")


def trials_of(values: F32, kind: Kind, settings: TexturesSettings) -> list[TrialFacts]:
    """The likely codecs of an image, each with what it gives in the channels that the kind counts."""
    height, width = values.shape[:2]
    top, left = max(height - _SIDE, 0) // 2, max(width - _SIDE, 0) // 2
    piece = to_bytes(as_rgba(values[top : top + _SIDE, left : left + _SIDE]))
    has_alpha = alpha_of(values) in ("cutout", "smooth")
    codecs = _OF_NORMALS if kind == "normal" else _OF_MASKS if kind in ONE_CHANNEL else _OF_COLORS
    counted = (0, 1) if kind == "normal" else (0,) if kind in ONE_CHANNEL else (0, 1, 2, 3) if has_alpha else (0, 1, 2)
    found = []
    for codec in codecs:
        encoding = Encoding(codec, settings.quality, by_angle=kind == "normal", has_holes=has_alpha and codec == "bc1")
        shown = decode(encode(piece, encoding, threads=1), codec, piece.shape[1], piece.shape[0])
        near = round(psnr(piece, shown, counted), 2)
        found.append(TrialFacts(codec=codec, bits_a_pixel=CODECS[codec].bits_a_pixel, psnr=near))
    return found
