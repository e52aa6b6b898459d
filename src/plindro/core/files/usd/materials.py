"""Preview materials of USD as metallic-roughness materials."""

from dataclasses import replace
from typing import Any

from plindro.core.files.obj.mtl import plain_material
from plindro.core.files.sidefiles import SideFiles
from plindro.core.files.source_images import SourceImages
from plindro.core.findings import Finding
from plindro.core.scene import Image, Material, Texture, TextureSlot

_WRAP = {"clamp": 33071, "mirror": 33648, "repeat": 10497}
_SLOTS: tuple[tuple[str, TextureSlot], ...] = (
    ("diffuseColor", "base_color"),
    ("normal", "normal"),
    ("metallic", "metallic_roughness"),
    ("occlusion", "occlusion"),
    ("emissiveColor", "emissive"),
)


class PreviewMaterials:
    """Reads each bound material once; collects images and what was missing."""

    def __init__(self, side_files: SideFiles, uv_names: dict[str, int]) -> None:
        self._side_files, self._uv_names = side_files, uv_names
        self._index: dict[str, int] = {}
        self.materials: list[Material] = []
        self.images: list[Image] = []
        self.findings: list[Finding] = []
        self._source_images = SourceImages(self.images, self.findings)

    def plain(self, color: tuple[float, float, float] | None) -> int:
        """A material for faces without one; grey, or of the mesh's one display colour."""
        key = f"plain {color}"
        if key not in self._index:
            material = plain_material("default")
            if color is not None:
                r, g, b = (min(max(c, 0.0), 1.0) for c in color)
                number = len([k for k in self._index if k.startswith("plain")])
                material = replace(material, name=f"color_{number + 1}", base_color=(r, g, b, 1.0))
            self._add(key, material)
        return self._index[key]

    def index(self, material: Any) -> int:
        """The number of a bound ``UsdShade.Material``."""
        key = str(material.GetPath())
        if key not in self._index:
            self._add(key, self._read(material))
        return self._index[key]

    def is_read(self, path: str) -> bool:
        return path in self._index

    def _add(self, key: str, material: Material) -> None:
        self._index[key] = len(self.materials)
        self.materials.append(material)

    def _read(self, material: Any) -> Material:
        name = material.GetPrim().GetName()
        shader = material.ComputeSurfaceSource()[0]
        if not shader or shader.GetIdAttr().Get() != "UsdPreviewSurface":
            return plain_material(name)
        slots: list[tuple[TextureSlot, Texture]] = []
        for source, slot in _SLOTS:
            texture = self._texture(shader.GetInput(source), name)
            if texture is not None:
                slots.append((slot, texture))
        if not any(slot == "metallic_roughness" for slot, _ in slots):
            roughness = self._texture(shader.GetInput("roughness"), name)
            if roughness is not None:
                slots.append(("metallic_roughness", roughness))
        textured = {slot for slot, _ in slots}
        base = (1.0, 1.0, 1.0) if "base_color" in textured else _color(shader, "diffuseColor", (0.18, 0.18, 0.18))
        packed = "metallic_roughness" in textured
        opacity = _number(shader, "opacity", 1.0)
        threshold = _number(shader, "opacityThreshold", 0.0)
        return Material(
            name=name,
            base_color=(*base, opacity),
            metallic=1.0 if packed else _number(shader, "metallic", 0.0),
            roughness=1.0 if packed else _number(shader, "roughness", 0.5),
            emissive=(1.0, 1.0, 1.0) if "emissive" in textured else _color(shader, "emissiveColor", (0.0, 0.0, 0.0)),
            alpha_mode="MASK" if threshold > 0 else "BLEND" if opacity < 1 else "OPAQUE",
            alpha_cutoff=threshold if threshold > 0 else 0.5,
            textures=tuple(slots),
        )

    def _texture(self, source: Any, material: str) -> Texture | None:
        """The texture that is connected to an input, with its UV set and wrap modes."""
        from pxr import UsdShade

        if not source or not source.HasConnectedSource():
            return None
        node = UsdShade.Shader(source.GetConnectedSources()[0][0].source.GetPrim())
        if node.GetIdAttr().Get() != "UsdUVTexture":
            return None
        file = node.GetInput("file")
        path = getattr(file.Get() if file else None, "path", None)
        image = None if path is None else self._source_images.number_of(str(path), material, self._side_files.get)
        if image is None:
            return None
        st = node.GetInput("st")
        channel = 0
        if st and st.HasConnectedSource():
            reader = UsdShade.Shader(st.GetConnectedSources()[0][0].source.GetPrim())
            variable = reader.GetInput("varname")
            value = _connected_value(variable) if variable else None
            channel = self._uv_names.get(str(value), 0)

        def wrap(axis: str) -> int:
            mode = node.GetInput(axis)
            return _WRAP.get(str(mode.Get()) if mode else "repeat", 10497)

        return Texture(image, channel, (wrap("wrapS"), wrap("wrapT")))


def _connected_value(source: Any) -> Any:
    """The value of an input, through a connection to the material's interface."""
    attributes = source.GetValueProducingAttributes()
    return attributes[0].Get() if attributes else source.Get()


def _number(shader: Any, name: str, default: float) -> float:
    source = shader.GetInput(name)
    value = _connected_value(source) if source else None
    return float(value) if isinstance(value, int | float) else default


def _color(shader: Any, name: str, default: tuple[float, float, float]) -> tuple[float, float, float]:
    source = shader.GetInput(name)
    value = _connected_value(source) if source else None
    try:
        r, g, b = (float(c) for c in value or ())
    except (TypeError, ValueError):
        return default
    return r, g, b
