"""Materials, textures and images of a glTF file."""

import json
from dataclasses import replace
from typing import Any

import numpy as np

from plindro.core.files.gltf.container import MATERIAL_EXTENSIONS, Document
from plindro.core.files.gltf.specular import EXTENSION as SPECULAR
from plindro.core.files.gltf.specular import Values, bake, is_plain, to_metal
from plindro.core.files.source_images import SourceImages
from plindro.core.findings import Finding, Severity
from plindro.core.scene import Image, Material, MaterialExtension, Texture, TextureSlot


class MaterialReader:
    """Reads materials and, once each, the images they use; collects what was missing."""

    def __init__(self, document: Document) -> None:
        self._document = document
        self.images: list[Image] = []
        self.findings: list[Finding] = []
        self._source_images = SourceImages(self.images, self.findings)
        self.unused: dict[str, int] = {}

    def read(self, index: int) -> Material:
        """Material ``index`` of the file; raises ``UnreadableFile`` where there is no such material."""
        row = self._document.row("materials", index)
        name = str(row.get("name") or f"material_{index}")
        pbr = _object(row.get("pbrMetallicRoughness"))
        slots: list[tuple[TextureSlot, Texture]] = []
        sources: list[tuple[TextureSlot, Any]] = [
            ("base_color", pbr.get("baseColorTexture")),
            ("normal", row.get("normalTexture")),
            ("metallic_roughness", pbr.get("metallicRoughnessTexture")),
            ("occlusion", row.get("occlusionTexture")),
            ("emissive", row.get("emissiveTexture")),
        ]
        for slot, info in sources:
            texture = self._texture(info, name) if isinstance(info, dict) else None
            if texture is not None:
                slots.append((slot, texture))
        carried = []
        extensions = dict(sorted(_object(row.get("extensions")).items()))
        specular = extensions.pop(SPECULAR, None)
        for extension, content in extensions.items():
            if extension.startswith(MATERIAL_EXTENSIONS):
                carried.append(self._extension(extension, _object(content), name))
                continue
            self.unused[f"material extension {extension}"] = self.unused.get(f"material extension {extension}", 0) + 1
        red, green, blue, alpha = _numbers(pbr.get("baseColorFactor"), (1.0, 1.0, 1.0, 1.0))
        glow = _numbers(row.get("emissiveFactor"), (0.0, 0.0, 0.0))
        mode = row.get("alphaMode")
        material = Material(
            name=name,
            base_color=(red, green, blue, alpha),
            metallic=_numbers([pbr.get("metallicFactor", 1.0)], (1.0,))[0],
            roughness=_numbers([pbr.get("roughnessFactor", 1.0)], (1.0,))[0],
            emissive=(glow[0], glow[1], glow[2]),
            alpha_mode=mode if mode in ("MASK", "BLEND") else "OPAQUE",
            alpha_cutoff=_numbers([row.get("alphaCutoff", 0.5)], (0.5,))[0],
            double_sided=row.get("doubleSided") is True,
            textures=tuple(slots),
            extensions=tuple(carried),
        )
        if not isinstance(specular, dict):
            return material
        self._warn(
            "specular-glossiness",
            f"material '{name}': is of specular and glossiness, which few engines read any more; "
            + ("the metal and roughness beside it are taken" if pbr else "it became metal and roughness; look at it"),
        )
        return material if pbr else self._of_specular(material, specular)

    def _of_specular(self, material: Material, content: dict[str, Any]) -> Material:
        """The material with what a description by specular and glossiness comes to."""
        values = Values(
            _numbers(content.get("diffuseFactor"), (1.0, 1.0, 1.0, 1.0)),
            _numbers(content.get("specularFactor"), (1.0, 1.0, 1.0)),
            _numbers([content.get("glossinessFactor", 1.0)], (1.0,))[0],
        )
        diffuse, specular = (
            self._texture(info, material.name) if isinstance(info := content.get(key), dict) else None
            for key in ("diffuseTexture", "specularGlossinessTexture")
        )
        others = tuple(pair for pair in material.textures if pair[0] not in ("base_color", "metallic_roughness"))
        if specular is None and (diffuse is None or is_plain(values.specular)):
            # Pictures of what is no metal stay as they are.
            base, metal = to_metal(*(np.array(f[:3], np.float32) for f in values[:2]))
            own: tuple[tuple[TextureSlot, Texture], ...] = (("base_color", diffuse),) if diffuse is not None else ()
            red, green, blue = base.tolist()
            return replace(
                material, base_color=(red, green, blue, values.diffuse[3]), metallic=float(metal),
                roughness=1.0 - values.glossiness, textures=(*own, *others),
            )  # fmt: skip
        # One picture holds both; where they lie differently on the surface it is that of the colours.
        whole = diffuse or specular
        assert whole is not None
        alike = specular if specular is None or _lies_as(specular, whole) else None
        images = [self.images[texture.image] if texture is not None else None for texture in (diffuse, alike)]
        color, surface = bake(material.name, values, *images, has_alpha=material.alpha_mode != "OPAQUE")
        first = len(self.images)
        self.images += [color, surface]
        made: tuple[tuple[TextureSlot, Texture], ...] = (
            ("base_color", replace(whole, image=first, strength=1.0)),
            ("metallic_roughness", replace(whole, image=first + 1, strength=1.0)),
        )
        return replace(
            material, base_color=(1.0, 1.0, 1.0, 1.0), metallic=1.0, roughness=1.0, textures=(*made, *others)
        )

    def _extension(self, extension: str, content: dict[str, Any], material: str) -> MaterialExtension:
        """A KHR_materials extension as it stands; its textures are read like any others."""
        textures = []
        values = {}
        for key, value in content.items():
            if isinstance(value, dict) and "index" in value:
                texture = self._texture(value, material)
                if texture is not None:
                    textures.append((key, texture))
            else:
                values[key] = value
        return MaterialExtension(extension, json.dumps(values, sort_keys=True), tuple(sorted(textures)))

    def _texture(self, info: dict[str, Any], material: str) -> Texture | None:
        row = self._document.row("textures", info.get("index"))
        webp = _object(_object(row.get("extensions")).get("EXT_texture_webp"))
        image = self._image(row.get("source", webp.get("source")), material)
        if image is None:
            return None
        sampler: dict[str, Any] = {}
        if row.get("sampler") is not None:
            sampler = self._document.row("samplers", row["sampler"])
        strength = info.get("scale", info.get("strength", 1.0))
        transform = _object(_object(info.get("extensions")).get("KHR_texture_transform"))
        return Texture(
            image=image,
            channel=self._document.integer(info, "texCoord", 0),
            wrap=(_wrap(sampler.get("wrapS")), _wrap(sampler.get("wrapT"))),
            filters=(_filter(sampler.get("magFilter")), _filter(sampler.get("minFilter"))),
            strength=_numbers([strength], (1.0,))[0],
            transform=tuple(sorted((k, _frozen(v)) for k, v in transform.items())),
        )

    def _image(self, index: Any, material: str) -> int | None:
        if index is None:
            self._warn("missing-texture", f"material '{material}': a texture names no image that can be read")
            return None
        return self._source_images.number(index, material, lambda: self._image_bytes(index))

    def _image_bytes(self, index: Any) -> tuple[bytes | None, str]:
        """The bytes of an image, None where they are not there, and what it is called."""
        row = self._document.row("images", index)
        uri = row.get("uri")
        name = str(row.get("name") or f"image_{index}")
        if isinstance(uri, str):
            data = self._document.resource(uri)
            is_file = not uri.startswith("data:")
            # What is missing is told by the name of its file.
            return data, uri if is_file and (data is None or not row.get("name")) else name
        return bytes(self._document.view(row.get("bufferView"))[0]), name

    def _warn(self, code: str, message: str) -> None:
        self.findings.append(Finding(code, Severity.WARNING, message))


def _lies_as(one: Texture, other: Texture) -> bool:
    """Whether two textures lie on the surface alike."""
    return (one.channel, one.transform, one.wrap) == (other.channel, other.transform, other.wrap)


def _object(value: Any) -> dict[str, Any]:
    return value if isinstance(value, dict) else {}


def _frozen(value: Any) -> Any:
    return tuple(value) if isinstance(value, list) else value


def _numbers(values: Any, default: tuple[float, ...]) -> tuple[float, ...]:
    """As many finite numbers as the default has, else the default."""
    good = isinstance(values, list) and len(values) == len(default)
    good = good and all(isinstance(v, int | float) and np.isfinite(v) for v in values)
    return tuple(float(v) for v in values) if good else default


def _wrap(value: Any) -> int:
    return value if value in (33071, 33648, 10497) else 10497


def _filter(value: Any) -> int | None:
    return value if value in (9728, 9729, 9984, 9985, 9986, 9987) else None
