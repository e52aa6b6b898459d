"""USD with polygons as they are: a mesh a level under one root, normals and UVs a corner, preview materials."""

import io
import struct
import tempfile
import zipfile
from pathlib import Path
from typing import Any

import numpy as np

from plindro.core.collision.proxy import Proxy
from plindro.core.files.form import PLAIN_FORM, FileForm
from plindro.core.files.images import image_file
from plindro.core.files.level_meshes import level_meshes
from plindro.core.mesh.mesh import Mesh
from plindro.core.names import clean_name, unique_names
from plindro.core.prop import Prop
from plindro.core.scene import Material, Texture


def write_usd(prop: Prop, suffix: str = ".usdc", form: FileForm = PLAIN_FORM) -> dict[str, bytes]:
    """Files of a prop with levels, by name: the stage (``suffix`` .usda, .usdc or .usd) and the images it names, or
    one package of them all (.usdz).

    Raises ``ValueError`` where there are no levels.
    """
    from pxr import Usd, UsdGeom, UsdShade

    if not prop.levels:
        raise ValueError(f"prop '{prop.name}' has no levels to write")
    files: dict[str, bytes] = {}
    with tempfile.TemporaryDirectory(prefix="plindro-usd-") as folder:
        path = Path(folder) / f"stage{'.usdc' if suffix == '.usdz' else suffix}"
        stage = Usd.Stage.CreateNew(str(path))
        UsdGeom.SetStageUpAxis(stage, UsdGeom.Tokens.z if form.up == "z" else UsdGeom.Tokens.y)
        UsdGeom.SetStageMetersPerUnit(stage, form.metres)
        root_path = f"/{_identifier(prop.name)}"
        root = UsdGeom.Xform.Define(stage, root_path)
        stage.SetDefaultPrim(root.GetPrim())
        if any(prop.place):
            root.AddTranslateOp().Set(tuple(prop.place))
        used = sorted({int(m) for level in prop.levels for m in np.unique(level.mesh.face_material)})
        names = unique_names(_identifier(prop.materials[m].name) for m in used)
        bound = {
            m: _write_material(stage, f"{root_path}/Materials/{name}", prop, prop.materials[m], files)
            for m, name in zip(used, names, strict=True)
        }
        for title, mesh in [pair for level in prop.levels for pair in level_meshes(prop, level, form)]:
            geom = _write_mesh(stage, f"{root_path}/{_identifier(title)}", mesh, bound, UsdShade)
            if form.clockwise:
                geom.CreateOrientationAttr(UsdGeom.Tokens.leftHanded)
        for proxy in prop.proxies:
            _write_proxy(stage, f"{root_path}/{_identifier(proxy.name)}", proxy)
        stage.GetRootLayer().Save()
        del stage
        stem = form.stem(prop.name)
        if suffix == ".usdz":
            return {f"{stem}.usdz": _packed({f"{stem}.usdc": path.read_bytes(), **files})}
        return {f"{stem}{suffix}": path.read_bytes(), **files}


_ALIGNED = 64
"""Bytes to a multiple of which the data of a package's files begin."""
_FILLER = 0x1986
"""The field of a file's entry that fills the place before its data."""


def _packed(files: dict[str, bytes]) -> bytes:
    """One package of a stage, its first file, and the images that it names: stored, aligned, without a clock."""
    package = io.BytesIO()
    with zipfile.ZipFile(package, "w", zipfile.ZIP_STORED) as archive:
        for name, data in files.items():
            entry = zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0))
            start = package.tell() + _LOCAL_ENTRY + len(name.encode()) + 4
            missing = -start % _ALIGNED
            entry.extra = struct.pack("<HH", _FILLER, missing) + b"\0" * missing
            archive.writestr(entry, data)
    return package.getvalue()


_LOCAL_ENTRY = 30
"""Bytes of a file's entry before its name."""


def _identifier(name: str) -> str:
    """A name as USD allows it."""
    clean = clean_name(name).replace("-", "_")
    return clean if clean[:1].isalpha() or clean[:1] == "_" else f"_{clean}"


def _write_mesh(stage: Any, path: str, mesh: Mesh, bound: dict[int, Any], shade: Any) -> Any:
    from pxr import Sdf, UsdGeom, Vt

    geom = UsdGeom.Mesh.Define(stage, path)
    used = np.zeros(mesh.n_vertices, bool)
    used[mesh.corner_vertex] = True
    number = (np.cumsum(used) - 1).astype(np.int32)
    points = np.ascontiguousarray(mesh.positions[used], np.float32)
    geom.CreatePointsAttr(Vt.Vec3fArray.FromNumpy(points))
    geom.CreateFaceVertexCountsAttr(Vt.IntArray.FromNumpy(mesh.face_sides.astype(np.int32)))
    geom.CreateFaceVertexIndicesAttr(Vt.IntArray.FromNumpy(np.ascontiguousarray(number[mesh.corner_vertex])))
    geom.CreateSubdivisionSchemeAttr(UsdGeom.Tokens.none)
    if len(points):
        geom.CreateExtentAttr(Vt.Vec3fArray.FromNumpy(np.stack([points.min(axis=0), points.max(axis=0)])))
    if mesh.normals is not None:
        geom.CreateNormalsAttr(Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(mesh.normals)))
        geom.SetNormalsInterpolation(UsdGeom.Tokens.faceVarying)
    api = UsdGeom.PrimvarsAPI(geom)
    for channel, uv in enumerate(mesh.uvs):
        turned = np.ascontiguousarray(uv.astype(np.float64) * (1, -1) + (0, 1), np.float32)
        primvar = api.CreatePrimvar(
            "st" if channel == 0 else f"st{channel}", Sdf.ValueTypeNames.TexCoord2fArray, UsdGeom.Tokens.faceVarying
        )
        primvar.Set(Vt.Vec2fArray.FromNumpy(turned))
    if mesh.colors is not None:
        primvar = api.CreatePrimvar("displayColor", Sdf.ValueTypeNames.Color3fArray, UsdGeom.Tokens.faceVarying)
        primvar.Set(Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(mesh.colors[:, :3])))
    materials = np.unique(mesh.face_material)
    if len(materials) == 1:
        shade.MaterialBindingAPI.Apply(geom.GetPrim()).Bind(bound[int(materials[0])])
        return geom
    for index in materials.tolist():
        subset = UsdGeom.Subset.CreateGeomSubset(
            geom,
            bound[index].GetPrim().GetName(),
            UsdGeom.Tokens.face,
            Vt.IntArray.FromNumpy(np.flatnonzero(mesh.face_material == index).astype(np.int32)),
            "materialBind",
        )
        shade.MaterialBindingAPI.Apply(subset.GetPrim()).Bind(bound[index])
    return geom


def _write_proxy(stage: Any, path: str, proxy: Proxy) -> None:
    """A collision proxy as USD's physics schema has it: not drawn, its own convex hull."""
    from pxr import UsdGeom, UsdPhysics, Vt

    geom = UsdGeom.Mesh.Define(stage, path)
    points = np.ascontiguousarray(proxy.mesh.points, np.float32)
    geom.CreatePointsAttr(Vt.Vec3fArray.FromNumpy(points))
    geom.CreateFaceVertexCountsAttr(Vt.IntArray.FromNumpy(np.full(len(proxy.mesh.triangles), 3, np.int32)))
    geom.CreateFaceVertexIndicesAttr(Vt.IntArray.FromNumpy(np.ascontiguousarray(proxy.mesh.triangles.reshape(-1))))
    geom.CreateSubdivisionSchemeAttr(UsdGeom.Tokens.none)
    geom.CreateExtentAttr(Vt.Vec3fArray.FromNumpy(np.stack([points.min(axis=0), points.max(axis=0)])))
    geom.CreatePurposeAttr(UsdGeom.Tokens.guide)
    UsdPhysics.CollisionAPI.Apply(geom.GetPrim())
    UsdPhysics.MeshCollisionAPI.Apply(geom.GetPrim()).CreateApproximationAttr(UsdPhysics.Tokens.convexHull)


def _write_material(stage: Any, path: str, prop: Prop, material: Material, files: dict[str, bytes]) -> Any:
    """A preview material with the textures that it can hold."""
    from pxr import Sdf, UsdShade

    made = UsdShade.Material.Define(stage, path)
    shader = UsdShade.Shader.Define(stage, f"{path}/surface")
    shader.CreateIdAttr("UsdPreviewSurface")
    made.CreateSurfaceOutput().ConnectToSource(shader.ConnectableAPI(), "surface")
    kinds = Sdf.ValueTypeNames
    r, g, b, a = material.base_color
    values: tuple[tuple[str, Any, Any], ...] = (
        ("diffuseColor", kinds.Color3f, (r, g, b)),
        ("opacity", kinds.Float, a),
        ("metallic", kinds.Float, material.metallic),
        ("roughness", kinds.Float, material.roughness),
        ("emissiveColor", kinds.Color3f, tuple(material.emissive)),
    )
    for name, kind, value in values:
        shader.CreateInput(name, kind).Set(value)
    reader = UsdShade.Shader.Define(stage, f"{path}/uv")
    reader.CreateIdAttr("UsdPrimvarReader_float2")
    reader.CreateInput("varname", kinds.String).Set("st")

    def connect(texture: Texture | None, input_name: str, kind: Any, channel: str) -> None:
        if texture is None:
            return
        file, data = image_file(prop.name, prop.images[texture.image])
        files[file] = data
        sampler = UsdShade.Shader.Define(stage, f"{path}/{input_name}")
        sampler.CreateIdAttr("UsdUVTexture")
        sampler.CreateInput("file", kinds.Asset).Set(Sdf.AssetPath(f"./{file}"))
        sampler.CreateInput("st", kinds.Float2).ConnectToSource(reader.ConnectableAPI(), "result")
        if input_name == "normal":
            sampler.CreateInput("scale", kinds.Float4).Set((2, 2, 2, 1))
            sampler.CreateInput("bias", kinds.Float4).Set((-1, -1, -1, 0))
        output = kinds.Float3 if channel == "rgb" else kinds.Float
        sampler.CreateOutput(channel, output)
        shader.CreateInput(input_name, kind).ConnectToSource(sampler.ConnectableAPI(), channel)

    connect(material.texture("base_color"), "diffuseColor", kinds.Color3f, "rgb")
    connect(material.texture("normal"), "normal", kinds.Normal3f, "rgb")
    connect(material.texture("metallic_roughness"), "metallic", kinds.Float, "b")
    connect(material.texture("metallic_roughness"), "roughness", kinds.Float, "g")
    connect(material.texture("occlusion"), "occlusion", kinds.Float, "r")
    connect(material.texture("emissive"), "emissiveColor", kinds.Color3f, "rgb")
    return made
