"""Shipping: files that appear whole or not at all, and the manifest that lists them."""

from plindro.core.shipping.clashes import Owners, find_clash, owners_of
from plindro.core.shipping.manifest import failed_record, held_record, manifest_json, prop_record, totals
from plindro.core.shipping.prepare import ROOM_VERSIONS, PrepareResult, prepare, prepare_scene
from plindro.core.shipping.texture_folder import TextureFolder
from plindro.core.shipping.whole_file import write_whole
from plindro.core.shipping.writing import ShippedFile, write_prop

__all__ = [
    "ROOM_VERSIONS",
    "Owners",
    "PrepareResult",
    "ShippedFile",
    "TextureFolder",
    "failed_record",
    "find_clash",
    "held_record",
    "manifest_json",
    "owners_of",
    "prepare",
    "prepare_scene",
    "prop_record",
    "totals",
    "write_prop",
    "write_whole",
]
