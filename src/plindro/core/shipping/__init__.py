"""Shipping: files that appear whole or not at all, and the manifest that lists them."""

from plindro.core.shipping.manifest import failed_record, manifest_json, prop_record, totals
from plindro.core.shipping.prepare import ROOM_VERSIONS, PrepareResult, prepare, prepare_scene
from plindro.core.shipping.whole_file import write_whole
from plindro.core.shipping.writing import ShippedFile, write_prop

__all__ = [
    "ROOM_VERSIONS",
    "PrepareResult",
    "ShippedFile",
    "failed_record",
    "manifest_json",
    "prepare",
    "prepare_scene",
    "prop_record",
    "totals",
    "write_prop",
    "write_whole",
]
