"""USD into a scene: polygons, subsets as materials, UV sets in the order of their names, instances told as such.

Transforms are baked into the vertices. Lengths stay in the stage's own unit and axes, which the scene names.
"""

from dataclasses import dataclass, field
from pathlib import PurePosixPath
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plindro.core.errors import PlindroError, UnreadableFile
from plindro.core.files.limits import Census
from plindro.core.files.sidefiles import SideFiles
from plindro.core.files.usd.layers import open_stage
from plindro.core.files.usd.materials import PreviewMaterials
from plindro.core.findings import Finding, Severity
from plindro.core.mesh.geometry import unit
from plindro.core.mesh.mesh import F32, F64, Mesh, make_mesh
from plindro.core.mesh.surgery import turn_faces
from plindro.core.scene import COLLISION_PROXY, Bystander, Part, Scene, is_flattening, with_own_paths

_KINDS = {
    "Camera": "camera", "BasisCurves": "curve", "NurbsCurves": "curve", "HermiteCurves": "curve",
    "Points": "point cloud",
    "NurbsPatch": "patch", "PointInstancer": "point instancer", "SkelRoot": "skeleton", "Skeleton": "skeleton",
    "Cube": "simple solid", "Sphere": "simple solid", "Cylinder": "simple solid", "Cone": "simple solid",
    "Capsule": "simple solid", "Plane": "simple solid", "Volume": "volume",
}  # fmt: skip
_PASSED = {"Mesh", "Xform", "Scope", "", "Material", "Shader", "GeomSubset", "NodeGraph", "SkelAnimation"}


@dataclass(slots=True)
class _Piece:
    """One mesh prim in the stage's space."""

    mesh: Mesh
    uv_names: tuple[str, ...]


@dataclass(slots=True)
class _Gathered:
    """What was met on the way through the stage."""

    parts: list[Part] = field(default_factory=list)
    pieces: list[_Piece] = field(default_factory=list)
    bystanders: list[Bystander] = field(default_factory=list)
    n_dropped: int = 0


def read_usd(data: bytes, name: str, side_files: SideFiles, census: Census) -> Scene:
    """Read usda, usdc, usd or usdz bytes; raises ``UnreadableFile``.

    Some damaged files end the process, in OpenUSD: who reads files from elsewhere does it in a process of its own.
    """
    try:
        return _read(data, name, side_files, census)
    except (PlindroError, MemoryError):
        raise
    except Exception as error:
        # Attributes of a wrong type and text that is no text are met deep inside OpenUSD, as errors of any kind.
        raise UnreadableFile(f"{name}: holds values that no USD file can have; export it again") from error


def _read(data: bytes, name: str, side_files: SideFiles, census: Census) -> Scene:
    from pxr import UsdGeom

    stem = PurePosixPath(name).stem
    with open_stage(data, name, side_files) as (stage, own_files):
        for prim in _prims(stage):
            census.add(nodes=1)
            census.at_most(depth=prim.GetPath().pathElementCount)
        names = _uv_names(stage)
        materials = PreviewMaterials(own_files, {uv: i for i, uv in enumerate(names)})
        gathered = _gather(stage, names, materials, name, census)
        unused = _unused_materials(stage, materials)
        meters = float(UsdGeom.GetStageMetersPerUnit(stage))
        up = str(UsdGeom.GetStageUpAxis(stage)).lower()
        says = UsdGeom.StageHasAuthoredMetersPerUnit(stage)
    mesh = _join(gathered.pieces, len(names))
    findings = list(materials.findings)
    if gathered.n_dropped:
        text = f"{gathered.n_dropped} corners have no UV; they lie at 0, 0"
        findings.append(Finding("uvs-partly-missing", Severity.WARNING, text, gathered.n_dropped))
    return Scene(
        name=stem,
        format="USD",
        mesh=mesh,
        parts=with_own_paths(gathered.parts),
        materials=tuple(materials.materials),
        images=tuple(materials.images),
        findings=tuple(findings),
        bystanders=tuple(gathered.bystanders),
        unused_materials=unused,
        unit=meters if np.isfinite(meters) and meters > 0 else 1.0,
        up="z" if up == "z" else "x" if up == "x" else "y",
        says_unit=bool(says),
    )


def _prims(stage: Any) -> Any:
    from pxr import Usd

    return Usd.PrimRange(stage.GetPseudoRoot(), Usd.TraverseInstanceProxies(Usd.PrimDefaultPredicate))


def _uv_names(stage: Any) -> tuple[str, ...]:
    """Names of all UV sets of the stage: the usual first one first, then by name."""
    from pxr import UsdGeom

    found: set[str] = set()
    for prim in _prims(stage):
        if prim.IsA(UsdGeom.Mesh):
            for primvar in UsdGeom.PrimvarsAPI(prim).GetPrimvarsWithValues():
                if str(primvar.GetTypeName()) in ("texCoord2f[]", "texCoord2d[]", "texCoord2h[]") or (
                    str(primvar.GetTypeName()) in ("float2[]", "double2[]")
                    and primvar.GetPrimvarName().lower().startswith(("st", "uv"))
                ):
                    found.add(primvar.GetPrimvarName())
    usual = [n for n in ("st", "UVMap", "map1", "uv", "st0") if n in found]
    return (*usual[:1], *sorted(found - set(usual[:1])))


def _is_proxy(prim: Any) -> bool:
    """Whether a prim is there for physics alone: it collides, and is a guide that is not drawn."""
    from pxr import UsdGeom, UsdPhysics

    guide = UsdGeom.Imageable(prim).ComputePurpose() == UsdGeom.Tokens.guide
    return guide and prim.HasAPI(UsdPhysics.CollisionAPI)


def _gather(stage: Any, uv_names: tuple[str, ...], materials: PreviewMaterials, name: str, census: Census) -> _Gathered:
    from pxr import UsdGeom, UsdLux

    gathered = _Gathered()
    cache = UsdGeom.XformCache()
    # A single root that holds everything is no parent and no group of anything.
    roots = stage.GetPseudoRoot().GetChildren()
    wrapper = roots[0] if len(roots) == 1 and not roots[0].IsA(UsdGeom.Mesh) else None
    for prim in _prims(stage):
        path = str(prim.GetPath()).lstrip("/")
        kind = str(prim.GetTypeName())
        if _is_proxy(prim):
            gathered.bystanders.append(Bystander(prim.GetName(), path, COLLISION_PROXY))
        elif prim.IsA(UsdGeom.Mesh):
            matrix = np.array(cache.GetLocalToWorldTransform(prim), np.float64).T
            piece, dropped = _read_mesh(prim, matrix, uv_names, materials, name)
            gathered.n_dropped += dropped
            if piece is not None:
                census.add(vertices=piece.mesh.n_vertices, faces=piece.mesh.n_faces)
                gathered.parts.append(_part(prim, path, matrix, wrapper))
                gathered.pieces.append(piece)
        elif kind in _KINDS:
            gathered.bystanders.append(Bystander(prim.GetName(), path, _KINDS[kind]))
        elif prim.HasAPI(UsdLux.LightAPI):
            gathered.bystanders.append(Bystander(prim.GetName(), path, "light"))
        elif kind not in _PASSED:
            gathered.bystanders.append(Bystander(prim.GetName(), path, kind))
        elif kind in ("Xform", "") and not prim.GetFilteredChildren(_any_child()) and path:
            gathered.bystanders.append(Bystander(prim.GetName(), path, "empty"))
    return gathered


def _any_child() -> Any:
    from pxr import Usd

    return Usd.TraverseInstanceProxies(Usd.PrimDefaultPredicate)


def _part(prim: Any, path: str, matrix: F64, wrapper: Any) -> Part:
    from pxr import UsdGeom

    imageable = UsdGeom.Imageable(prim)
    hidden = imageable.ComputeVisibility() == UsdGeom.Tokens.invisible
    hidden = hidden or imageable.ComputePurpose() in (UsdGeom.Tokens.guide, UsdGeom.Tokens.proxy)
    above = []
    parent = prim.GetParent()
    while parent and str(parent.GetPath()) != "/":
        above.append(parent)
        parent = parent.GetParent()
    names = path.split("/")
    group = next((p for p in above if not p.IsA(UsdGeom.Mesh) and p != wrapper), None)
    depth = 1 if wrapper is not None and len(names) > 1 else 0
    source = prim.GetPrimInPrototype() if prim.IsInstanceProxy() else prim
    x, y, z = matrix[:3, 3].tolist()
    return Part(
        prim.GetName(),
        path,
        parent="/".join(names[: depth + 1]),
        group=str(group.GetPath()).lstrip("/") if group is not None else "",
        is_hidden=bool(hidden),
        source_mesh=str(source.GetPath()),
        is_mirrored=bool(np.linalg.det(matrix[:3, :3]) < 0),
        is_flattened=is_flattening(matrix[:3, :3]),
        origin=(x, y, z),
    )


def _read_mesh(
    prim: Any, matrix: F64, uv_names: tuple[str, ...], materials: PreviewMaterials, name: str
) -> tuple[_Piece | None, int]:
    from pxr import UsdGeom

    geom = UsdGeom.Mesh(prim)
    points = np.asarray(geom.GetPointsAttr().Get() or [], np.float64).reshape(-1, 3)
    sides = np.asarray(geom.GetFaceVertexCountsAttr().Get() or [], np.int64)
    corners = np.asarray(geom.GetFaceVertexIndicesAttr().Get() or [], np.int64)
    where = f"{name}: mesh '{prim.GetPath()}'"
    if not len(sides):
        return None, 0
    if (sides < 0).any() or int(sides.sum()) != len(corners):
        raise UnreadableFile(f"{where} names {len(corners)} corners for faces of {int(sides.sum())}; export it again")
    if len(corners) and (corners.min() < 0 or corners.max() >= len(points)):
        raise UnreadableFile(f"{where} names vertex {int(corners.max())} of {len(points)}; export it again")
    face = np.repeat(np.arange(len(sides)), sides)
    uvs, dropped = [], 0
    api = UsdGeom.PrimvarsAPI(prim)
    for uv_name in uv_names:
        values = _spread(api.GetPrimvar(uv_name), corners, face, 2)
        if values is None:
            dropped += len(corners) if uv_name == uv_names[0] else 0
            values = np.zeros((len(corners), 2))
            values[:, 1] = 1.0
        uvs.append((values * [1, -1] + [0, 1]).astype(np.float32))
    mesh = make_mesh(
        points @ matrix[:3, :3].T + matrix[:3, 3],
        np.concatenate([[0], np.cumsum(sides)]),
        corners,
        face_material=_face_materials(prim, len(sides), materials),
        normals=_normals(geom, api, corners, face, matrix),
        uvs=tuple(uvs),
        colors=_colors(api, corners, face),
    )
    left_handed = str(geom.GetOrientationAttr().Get() or "") == "leftHanded"
    if left_handed != (np.linalg.det(matrix[:3, :3]) < 0):
        mesh = turn_faces(mesh, np.ones(mesh.n_faces, bool))
    return _Piece(mesh, uv_names), dropped


def _spread(primvar: Any, corners: NDArray[np.int64], face: NDArray[np.int64], width: int) -> F64 | None:
    """Values of a primvar on every corner; None where there are none or they do not fit."""
    if not primvar or not primvar.HasValue():
        return None
    values = np.asarray(primvar.ComputeFlattened(), np.float64).reshape(-1, width)
    return _by_interpolation(values, str(primvar.GetInterpolation()), corners, face)


def _by_interpolation(values: F64, kind: str, corners: NDArray[np.int64], face: NDArray[np.int64]) -> F64 | None:
    n = len(values)
    if kind == "faceVarying":
        return values if n == len(corners) else None
    if kind in ("vertex", "varying"):
        return values[corners] if n > int(corners.max(initial=-1)) else None
    if kind == "uniform":
        return values[face] if n > int(face.max(initial=-1)) else None
    return np.repeat(values[:1], len(corners), axis=0) if n else None


def _normals(geom: Any, api: Any, corners: NDArray[np.int64], face: NDArray[np.int64], matrix: F64) -> F32 | None:
    primvar = api.GetPrimvar("normals")
    values = _spread(primvar, corners, face, 3)
    if values is None:
        raw = geom.GetNormalsAttr().Get()
        if raw is None or not len(raw):
            return None
        values = _by_interpolation(np.asarray(raw, np.float64), str(geom.GetNormalsInterpolation()), corners, face)
    if values is None:
        return None
    linear = matrix[:3, :3]
    determinant = float(np.linalg.det(linear))
    cofactors = np.linalg.inv(linear).T * abs(determinant) if determinant else np.eye(3)
    return unit(values @ cofactors.T).astype(np.float32)


def _colors(api: Any, corners: NDArray[np.int64], face: NDArray[np.int64]) -> F32 | None:
    """Display colours that vary; a single one is the material's."""
    primvar = api.GetPrimvar("displayColor")
    if not primvar or str(primvar.GetInterpolation()) == "constant":
        return None
    rgb = _spread(primvar, corners, face, 3)
    if rgb is None:
        return None
    return np.concatenate([rgb, np.ones((len(rgb), 1))], axis=1).astype(np.float32)


def _face_materials(prim: Any, n_faces: int, materials: PreviewMaterials) -> NDArray[np.int32]:
    """(F,) material of each face: by its subset, else by the mesh, else plain."""
    from pxr import UsdGeom, UsdShade

    def bound(owner: Any) -> int | None:
        material = UsdShade.MaterialBindingAPI(owner).ComputeBoundMaterial()[0]
        return materials.index(material) if material else None

    result = np.full(n_faces, -1, np.int32)
    for subset in UsdGeom.Subset.GetAllGeomSubsets(UsdGeom.Imageable(prim)):
        if str(subset.GetElementTypeAttr().Get()) == "face":
            number = bound(subset.GetPrim())
            faces = np.asarray(subset.GetIndicesAttr().Get() or [], np.int64)
            if number is not None:
                result[faces[(faces >= 0) & (faces < n_faces)]] = number
    if (result < 0).any():
        own = bound(prim)
        if own is None:
            color = UsdGeom.PrimvarsAPI(prim).GetPrimvar("displayColor")
            values = color.Get() if color else None
            if values and str(color.GetInterpolation()) != "constant":
                # White lets them through.
                values = [(1.0, 1.0, 1.0)]
            own = materials.plain(tuple(float(c) for c in values[0]) if values else None)  # type: ignore[arg-type]
        result[result < 0] = own
    return result


def _unused_materials(stage: Any, materials: PreviewMaterials) -> tuple[str, ...]:
    from pxr import UsdShade

    return tuple(
        sorted(
            prim.GetName()
            for prim in _prims(stage)
            if prim.IsA(UsdShade.Material) and not prim.IsInstanceProxy() and not materials.is_read(str(prim.GetPath()))
        )
    )


def _join(pieces: list[_Piece], n_uvs: int) -> Mesh:
    """All pieces as one mesh with a part number each."""
    if not pieces:
        return make_mesh(np.zeros((0, 3)), np.zeros(1), np.zeros(0))
    meshes = [piece.mesh for piece in pieces]
    vertices = np.cumsum([0, *(m.n_vertices for m in meshes)])
    corners = np.cumsum([0, *(m.n_corners for m in meshes)])

    def together(values: list[F32 | None], width: int, fill: float) -> F32 | None:
        if all(v is None for v in values):
            return None
        return np.concatenate(
            [
                np.full((m.n_corners, width), fill, np.float32) if v is None else v
                for m, v in zip(meshes, values, strict=True)
            ]
        )

    return make_mesh(
        np.concatenate([m.positions for m in meshes]),
        np.concatenate([[0], *(m.face_start[1:] + c for m, c in zip(meshes, corners, strict=False))]),
        np.concatenate([m.corner_vertex + v for m, v in zip(meshes, vertices, strict=False)]),
        face_material=np.concatenate([m.face_material for m in meshes]),
        face_part=np.repeat(np.arange(len(meshes)), [m.n_faces for m in meshes]),
        normals=together([m.normals for m in meshes], 3, 0.0),
        uvs=tuple(np.concatenate([m.uvs[k] for m in meshes]) for k in range(n_uvs)),
        colors=together([m.colors for m in meshes], 4, 1.0),
    )
