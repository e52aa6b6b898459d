"""A contact sheet: the pictures of a shipment's props on one page, each with its name and its figures."""

import io
from collections.abc import Sequence
from dataclasses import dataclass

from PIL import Image, ImageDraw, ImageFont

_CELL, _PICTURE, _MARGIN, _HEAD = 240, 200, 24, 64
_PAPER, _INK, _QUIET, _STOP = (247, 244, 236), (20, 35, 60), (98, 110, 130), (158, 27, 50)
_MOST_COLUMNS = 6
_LONGEST = 30


@dataclass(frozen=True, slots=True)
class Shot:
    """A prop on the sheet: its name, one line of figures, its picture as PNG or None; ``is_held`` stands out."""

    name: str
    figures: str
    picture: bytes | None
    is_held: bool = False


def draw_contact_sheet(title: str, shots: Sequence[Shot]) -> bytes:
    """PNG bytes of a sheet as wide as it needs, at most six props across. The same props give the same pixels."""
    columns = max(min(len(shots), _MOST_COLUMNS), 2)
    rows = max(-(-len(shots) // columns), 1)
    width, height = 2 * _MARGIN + columns * _CELL, 2 * _MARGIN + _HEAD + rows * (_CELL + 24)
    sheet = Image.new("RGB", (width, height), _PAPER)
    draw = ImageDraw.Draw(sheet)
    large, plain, small = (ImageFont.load_default(size) for size in (24, 15, 13))
    draw.text((_MARGIN, _MARGIN), title, _INK, large)
    draw.line((_MARGIN, _MARGIN + 40, width - _MARGIN, _MARGIN + 40), _QUIET)
    for number, shot in enumerate(shots):
        x = _MARGIN + number % columns * _CELL
        y = _MARGIN + _HEAD + number // columns * (_CELL + 24)
        if shot.picture is not None:
            picture = Image.open(io.BytesIO(shot.picture)).convert("RGBA")
            picture.thumbnail((_PICTURE, _PICTURE))
            sheet.paste(picture, (x + (_CELL - picture.width) // 2, y), picture)
        draw.text((x + 8, y + _PICTURE + 4), _cut(shot.name), _STOP if shot.is_held else _INK, plain)
        draw.text((x + 8, y + _PICTURE + 24), _cut(shot.figures), _QUIET, small)
    target = io.BytesIO()
    sheet.save(target, "PNG")
    return target.getvalue()


def _cut(text: str) -> str:
    # The sheet's face has no narrow space.
    text = text.replace("\u202f", " ")
    return text if len(text) <= _LONGEST else f"{text[: _LONGEST - 1]}…"
