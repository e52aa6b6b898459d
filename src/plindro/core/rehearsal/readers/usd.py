"""USD as its own package opens it."""

import tempfile
from collections.abc import Iterator, Mapping
from dataclasses import replace
from pathlib import Path, PurePosixPath
from typing import Any

import numpy as np

from plindro.core.errors import UnreadableFile
from plindro.core.rehearsal.axes import Axes
from plindro.core.rehearsal.disk import DiskFiles
from plindro.core.rehearsal.found import F64, I64, Found, FoundImage, FoundMap, FoundMaterial, FoundNode, Primitive
from plindro.core.rehearsal.images import look_at
from plindro.core.rehearsal.readers.corners import fan, primitive_of

_SLOTS = {
    "diffuseColor": "base_color", "normal": "normal", "metallic": "metallic_roughness", "occlusion": "occlusion",
    "emissiveColor": "emissive",
}  # fmt: skip
_CHANNELS = 8


def read_usd(path: str, files: Mapping[str, bytes], axes: Axes) -> Found:
    """The default prim of a stage, in its own axes and unit, but for the scale that a destination asks for."""
    if isinstance(files, DiskFiles):
        return _opened(files.folder / path, axes)
    with tempfile.TemporaryDirectory(prefix="plindro-usd-") as folder:
        for name, data in files.items():
            target = Path(folder) / name
            target.parent.mkdir(parents=True, exist_ok=True)
            target.write_bytes(data)
        return _opened(Path(folder) / path, axes)


def _opened(path: Path, axes: Axes) -> Found:
    from pxr import Tf, Usd, UsdGeom

    try:
        stage = Usd.Stage.Open(str(path))
    except Tf.ErrorException as error:
        raise UnreadableFile(f"{path.name}: cannot be opened as USD; ship it again") from error
    root = stage.GetDefaultPrim()
    if not root:
        raise ValueError("it has no default prim")
    up = "z" if UsdGeom.GetStageUpAxis(stage) == UsdGeom.Tokens.z else "y"
    return _Stage(root, Axes(up, metres=float(UsdGeom.GetStageMetersPerUnit(stage)), scale=axes.scale)).read()


class _Stage:
    """The default prim, in axes and unit that the stage itself says."""

    def __init__(self, root: Any, axes: Axes) -> None:
        self._root, self._axes = root, axes
        self._number: dict[str, int] = {}

    def read(self) -> Found:
        from pxr import UsdGeom, UsdShade

        prims = [UsdShade.Material(prim) for prim in _below(self._root) if prim.IsA(UsdShade.Material)]
        self._number = {str(material.GetPath()): index for index, material in enumerate(prims)}
        materials = [FoundMaterial(m.GetPrim().GetName(), tuple(_maps(m))) for m in prims]
        children = [self._node(prim) for prim in self._root.GetChildren() if prim.IsA(UsdGeom.Mesh)]
        move = UsdGeom.Xformable(self._root).GetLocalTransformation().ExtractTranslation()
        x, y, z = self._axes.points(np.array([list(move)], np.float64))[0].tolist()
        root = FoundNode(self._root.GetName(), any(move), children=children)
        return Found([root], materials, up=self._axes.up, metres=self._axes.metres, place=(x, y, z))

    def _node(self, prim: Any) -> FoundNode:
        from pxr import Gf, UsdGeom

        move = UsdGeom.Xformable(prim).GetLocalTransformation()
        return FoundNode(prim.GetName(), move != Gf.Matrix4d(1.0), list(self._primitives(prim)))

    def _primitives(self, prim: Any) -> Iterator[Primitive]:
        from pxr import UsdGeom, UsdShade

        mesh = UsdGeom.Mesh(prim)
        points = np.asarray(mesh.GetPointsAttr().Get(), np.float64).reshape(-1, 3)
        sides = np.asarray(mesh.GetFaceVertexCountsAttr().Get(), np.int64)
        index = np.asarray(mesh.GetFaceVertexIndicesAttr().Get(), np.int64)
        if len(index) and index.max() >= len(points):
            raise ValueError(f"{prim.GetName()}: an index names a point that is not there")
        left = mesh.GetOrientationAttr().Get() == UsdGeom.Tokens.leftHanded
        axes = replace(self._axes, clockwise=left)
        corners, face = fan(sides)
        normals = mesh.GetNormalsAttr().Get()
        by_corner = self._by_corner(normals, mesh.GetNormalsInterpolation(), index)
        uvs = {k: uv for k in range(_CHANNELS) if (uv := self._uvs(prim, k, index)) is not None}
        bound = UsdShade.MaterialBindingAPI(prim)
        subsets = bound.GetMaterialBindSubsets()
        groups: list[tuple[Any, Any]] = [(prim, None)]
        if subsets:
            groups = [(s.GetPrim(), np.asarray(s.GetIndicesAttr().Get(), np.int64)) for s in subsets]
        for owner, faces in groups:
            own = corners if faces is None else corners[np.isin(face, faces)]
            flat = own.reshape(-1)
            yield primitive_of(
                axes.points(points[index[flat]]),
                None if by_corner is None else axes.directions(by_corner[flat]),
                {channel: uv[flat] * (1.0, -1.0) + (0.0, 1.0) for channel, uv in uvs.items()},
                axes,
                self._material(UsdShade.MaterialBindingAPI(owner)),
            )

    def _material(self, bound: Any) -> int | None:
        material, _ = bound.ComputeBoundMaterial()
        return self._number.get(str(material.GetPath())) if material else None

    @staticmethod
    def _by_corner(values: Any, interpolation: str, index: I64) -> F64 | None:
        if values is None:
            return None
        rows = np.asarray(values, np.float64)
        return rows if interpolation == "faceVarying" else rows[index]

    def _uvs(self, prim: Any, channel: int, index: I64) -> F64 | None:
        from pxr import UsdGeom

        primvar = UsdGeom.PrimvarsAPI(prim).GetPrimvar("st" if channel == 0 else f"st{channel}")
        values = primvar.ComputeFlattened() if primvar and primvar.HasValue() else None
        return self._by_corner(values, primvar.GetInterpolation(), index) if values is not None else None


def _below(prim: Any) -> Iterator[Any]:
    for child in prim.GetChildren():
        yield child
        yield from _below(child)


def _maps(material: Any) -> Iterator[FoundMap]:
    """The textures of a preview surface."""
    from pxr import UsdShade

    surface, _, _ = material.ComputeSurfaceSource()
    for name, slot in _SLOTS.items() if surface else ():
        source = surface.GetInput(name).GetConnectedSources()[0] if surface.GetInput(name) else []
        for connected in source:
            asset = UsdShade.Shader(connected.source).GetInput("file").Get()
            yield FoundMap(slot, 0, (_image(asset),))


def _image(asset: Any) -> FoundImage:
    from pxr import Ar

    shown = PurePosixPath(asset.path).as_posix()
    if not asset.resolvedPath:
        return FoundImage(shown, "missing", fault="it does not lie there")
    opened = Ar.GetResolver().OpenAsset(Ar.ResolvedPath(asset.resolvedPath))
    if not opened:
        return FoundImage(shown, "missing", fault="it does not lie there")
    return look_at(shown, bytes(opened.GetBuffer()))
