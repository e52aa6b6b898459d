"""The report and the contact sheet: nothing in them that a name could bring in, and the same for the same props."""

import io

from PIL import Image

from plindro.web.shipping.report import size_words, write_contact_sheet, write_report

EVIL = '<script>alert("x")</script>'


def _record(**more: object) -> dict:
    return {
        "name": EVIL,
        "source": f"{EVIL}.obj",
        "status": "held",
        "files": [],
        "levels": [],
        "findings": [
            {"code": "a", "severity": "info", "message": "third"},
            {"code": "light-map-missing", "severity": "stop", "message": f"first {EVIL}"},
            {"code": "b", "severity": "warning", "message": "second"},
        ],
        "waivers": [{"code": "light-map-missing", "by": EVIL, "reason": "none"}],
        **more,
    }


def test_names_and_reasons_are_text_and_the_severest_comes_first() -> None:
    page = write_report("Title", "about", [_record()], {}).decode()
    assert "<script>" not in page
    assert page.count("&lt;script&gt;") >= 5
    assert page.index("first ") < page.index("second") < page.index("third")
    assert "held" in page


def test_a_contact_sheet_is_the_same_for_the_same_props_and_has_room_for_many() -> None:
    red = io.BytesIO()
    Image.new("RGBA", (64, 64), (200, 0, 0, 255)).save(red, "PNG")
    records = [
        _record(name=f"crate_{n}", status="shipped", levels=[{"triangles": 1200}, {"triangles": 3}]) for n in range(14)
    ]
    pictures = {"crate_3": red.getvalue()}
    sheet = write_contact_sheet("Fjord", records, pictures)
    assert sheet == write_contact_sheet("Fjord", records, pictures)
    image = Image.open(io.BytesIO(sheet)).convert("RGB")
    assert (200, 0, 0) in {color for _, color in image.getcolors(1 << 22) or []}
    assert image.height > Image.open(io.BytesIO(write_contact_sheet("Fjord", records[:6], {}))).height
    assert Image.open(io.BytesIO(write_contact_sheet("Nothing", [], {}))).width > 200


def test_bytes_are_said_in_the_unit_that_suits_them() -> None:
    assert [size_words(n) for n in (12, 2048, 5 * 1024**2)] == ["12 B", "2.0 KiB", "5.0 MiB"]
