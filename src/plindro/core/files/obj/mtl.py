"""MTL material libraries: the classic keywords and the metallic-roughness ones, as glTF materials."""

import io
from dataclasses import dataclass, field

import numpy as np
from PIL import Image as Pillow

from plindro.core.files.images import encode_png, open_image
from plindro.core.files.sidefiles import SideFiles
from plindro.core.files.source_images import SourceImages
from plindro.core.findings import Finding, Severity
from plindro.core.scene import HARDLY_SEEN, Image, Material, Texture, TextureSlot

_OPTION_VALUES = {"-o": 3, "-s": 3, "-t": 3, "-mm": 2, "-bm": 1, "-texres": 1, "-clamp": 1, "-blendu": 1, "-blendv": 1,
                  "-imfchan": 1, "-type": 1, "-cc": 1, "-boost": 1}  # fmt: skip
_MAPS = {"map_kd": "base_color", "norm": "normal", "map_kn": "normal", "map_ke": "emissive", "map_pr": "roughness",
         "map_pm": "metallic", "map_ns": "gloss", "map_d": "opacity", "map_bump": "bump", "bump": "bump",
         "map_ao": "occlusion", "map_ka": "ambient"}  # fmt: skip


@dataclass(slots=True)
class _Entry:
    """One material as its lines give it."""

    name: str
    numbers: dict[str, list[float]] = field(default_factory=dict)
    maps: dict[str, str] = field(default_factory=dict)


@dataclass(slots=True)
class MaterialLibrary:
    """Materials by name, the images they use, and what was missing on the way."""

    side_files: SideFiles
    source: str
    materials: dict[str, Material] = field(default_factory=dict)
    images: list[Image] = field(default_factory=list)
    findings: list[Finding] = field(default_factory=list)
    _source_images: SourceImages = field(init=False)

    def __post_init__(self) -> None:
        self._source_images = SourceImages(self.images, self.findings)

    def load(self, name: str) -> None:
        """Read a library that the source names; a finding where it is not there."""
        data = self.side_files.get(name)
        if data is None:
            self._warn(
                "missing-material-library",
                f"{self.source}: the material library '{name}' is missing; "
                f"put it beside the file, or the materials stay plain",
            )
            return
        for entry in _parse(data.decode("utf-8", "replace")):
            self.materials.setdefault(entry.name, self._material(entry))

    def _warn(self, code: str, message: str) -> None:
        self.findings.append(Finding(code, Severity.WARNING, message))

    def _material(self, entry: _Entry) -> Material:
        numbers = entry.numbers
        color = (numbers.get("kd", [0.8, 0.8, 0.8]) * 3)[:3]
        opacity = self._opacity(entry)
        slots: dict[TextureSlot, Texture] = {}
        base = self._image(entry, "base_color")
        if base is not None:
            # The colour of a textured material is most often left at grey, where only the picture is meant.
            color = [1.0, 1.0, 1.0]
            slots["base_color"] = Texture(base)
        normal = self._image(entry, "normal")
        if normal is None and "bump" in entry.maps:
            # Often a normal map; normals are made of it where it holds heights, once its strength is known.
            normal = self._image(entry, "bump")
        if normal is not None:
            slots["normal"] = Texture(normal)
        roughness = numbers["pr"][0] if numbers.get("pr") else _roughness_from_shininess(numbers.get("ns"))
        metallic = (numbers.get("pm") or [0.0])[0]
        packed = self._metallic_roughness(entry)
        if packed is not None:
            slots["metallic_roughness"] = Texture(packed)
            roughness = 1.0 if {"roughness", "gloss"} & entry.maps.keys() else roughness
            metallic = 1.0 if "metallic" in entry.maps else metallic
        occlusion = self._image(entry, "occlusion")
        if occlusion is not None:
            slots["occlusion"] = Texture(occlusion)
        emissive_image = self._image(entry, "emissive")
        emissive = (numbers.get("ke", [0.0]) * 3)[:3]
        if emissive_image is not None:
            slots["emissive"] = Texture(emissive_image)
            emissive = emissive if any(emissive) else [1.0, 1.0, 1.0]
        is_cutout = "opacity" in entry.maps
        if is_cutout:
            combined = self._with_opacity(entry, base)
            if combined is not None:
                slots["base_color"] = Texture(combined)
        return Material(
            name=entry.name,
            base_color=(*_clipped(color), float(np.clip(opacity, 0.0, 1.0))),
            metallic=float(np.clip(metallic, 0.0, 1.0)),
            roughness=float(np.clip(roughness, 0.0, 1.0)),
            emissive=_clipped(emissive),
            alpha_mode="MASK" if is_cutout else "BLEND" if opacity < 1.0 else "OPAQUE",
            textures=tuple(slots.items()),
        )

    def _opacity(self, entry: _Entry) -> float:
        """How much of a material is seen: ``d``, or what ``Tr`` leaves of it.

        Next to nothing is not what is meant: some writers take ``Tr 1`` for solid, and others leave ``d`` at 0.
        """
        solid, clear = entry.numbers.get("d"), entry.numbers.get("tr")
        opacity = solid[0] if solid else 1.0 - (clear or [0.0])[0]
        if opacity > HARDLY_SEEN:
            return opacity
        said = f"d {solid[0]:g}" if solid else f"Tr {1.0 - opacity:g}"
        self._warn(
            "invisible-material",
            f"material '{entry.name}': hardly anything of it would be seen, as its library has {said}; "
            "it is drawn solid; write how much of it is seen as d in the library",
        )
        return 1.0

    def _image(self, entry: _Entry, kind: str) -> int | None:
        """Index of the image of this kind; None where there is none."""
        name = entry.maps.get(kind)
        return None if name is None else self._source_images.number_of(name, entry.name, self.side_files.get)

    def _keep(self, image: Image) -> int:
        self.images.append(image)
        return len(self.images) - 1

    def _metallic_roughness(self, entry: _Entry) -> int | None:
        """Roughness in green and metal in blue of one picture, as glTF packs them."""
        rough, gloss, metal = (self._image(entry, kind) for kind in ("roughness", "gloss", "metallic"))
        if rough is None and metal is None and gloss is None:
            return None

        def channel(index: int | None, invert: bool = False) -> Pillow.Image | None:
            if index is None:
                return None
            picture = open_image(self.images[index], "L")
            return picture.point(lambda value: 255 - value) if invert else picture

        green = channel(rough) or channel(gloss, invert=True)
        blue = channel(metal)
        size = (green or blue).size  # type: ignore[union-attr]
        white = Pillow.new("L", size, 255)
        bands = [white, green or white, (blue or white).resize(size)]
        data = encode_png(Pillow.merge("RGB", bands))
        return self._keep(Image(f"{entry.name}_roughness_metallic.png", data, "image/png", *size))

    def _with_opacity(self, entry: _Entry, base: int | None) -> int | None:
        """Base colour with the opacity map as its alpha."""
        opacity = self._image(entry, "opacity")
        if opacity is None:
            return None
        mask = Pillow.open(io.BytesIO(self.images[opacity].data))
        alpha = mask.getchannel("A") if "A" in mask.getbands() else mask.convert("L")
        color = open_image(self.images[base], "RGB") if base is not None else Pillow.new("RGB", alpha.size, "white")
        color.putalpha(alpha.resize(color.size))
        return self._keep(Image(f"{entry.name}_color_opacity.png", encode_png(color), "image/png", *color.size))


def _clipped(values: list[float]) -> tuple[float, float, float]:
    red, green, blue = (float(min(max(v, 0.0), 1.0)) for v in values)
    return red, green, blue


def _roughness_from_shininess(shininess: list[float] | None) -> float:
    """Roughness of a Blinn-Phong exponent: sqrt(2 / (n + 2)), the usual match of the two lobes."""
    return float(np.sqrt(2.0 / (max(shininess[0], 0.0) + 2.0))) if shininess else 0.8


def _parse(text: str) -> list[_Entry]:
    entries: list[_Entry] = []
    for raw in text.splitlines():
        keyword, _, rest = raw.replace("\t", " ").strip().partition(" ")
        keyword, rest = keyword.lower(), rest.strip()
        if keyword == "newmtl":
            entries.append(_Entry(rest or "material"))
        elif not entries or not rest or keyword.startswith("#"):
            continue
        elif keyword in _MAPS:
            entries[-1].maps[_MAPS[keyword]] = _map_file(rest)
        else:
            numbers = _numbers(rest)
            if numbers:
                entries[-1].numbers[keyword] = numbers
    return entries


def _numbers(text: str) -> list[float]:
    values = []
    for token in text.split():
        try:
            value = float(token)
        except ValueError:
            break
        if not np.isfinite(value):
            break
        values.append(value)
    return values


def _map_file(text: str) -> str:
    """The file of a map line, after its options; names may hold blanks."""
    tokens = text.split()
    i = 0
    while i < len(tokens) and tokens[i].lower() in _OPTION_VALUES:
        limit = i + 1 + _OPTION_VALUES[tokens[i].lower()]
        i += 1
        single = limit == i + 1
        while i < len(tokens) and i < limit and (single or _numbers(tokens[i])):
            i += 1
    return " ".join(tokens[i:])


def plain_material(name: str, *, is_colored: bool = False) -> Material:
    """The material of a name that no library knows: plain grey, or white under colours of vertices, and not metal."""
    light = 1.0 if is_colored else 0.55
    return Material(name, base_color=(light, light, light, 1.0), metallic=0.0, roughness=0.8, is_known=False)
