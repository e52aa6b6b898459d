"""The landing stage as its modeller hands it over: one USD scene, centimetres, Z up, much in it that is not to ship."""

from typing import Any

import numpy as np

from plindro.demo.shapes import Shape, around, bolt, box, joined, lathe, tube

FAULT = "a whole scene: a reference figure, a hidden scaffold, a lamp and a camera stand among the pieces that ship"
STEM = "landing_stage"

# name: (base colour, metallic, roughness)
MATERIALS: dict[str, tuple[tuple[float, float, float], float, float]] = {
    "timber_deck": ((0.36, 0.27, 0.18), 0.0, 0.85),
    "timber_rail": ((0.36, 0.27, 0.18), 0.0, 0.85),
    "tarred": ((0.06, 0.05, 0.05), 0.0, 0.6),
    "iron": ((0.24, 0.24, 0.26), 1.0, 0.5),
    "old_paint": ((0.6, 0.1, 0.1), 0.0, 0.5),
}


def _planks() -> Shape:
    return joined([box(2.4, 0.05, 0.18, 0.008).moved(0, 1.05, -1.4 + 0.2 * i) for i in range(15)])


def _beams() -> Shape:
    return joined([box(0.16, 0.2, 3.0, 0.012).moved(x, 0.92, 0) for x in (-1.0, 0.0, 1.0)])


def _post() -> Shape:
    rounded = [(0, 0), (0.13, 0), (0.14, 0.05), (0.14, 1.35), (0.12, 1.42), (0.05, 1.46), (0, 1.46)]
    return lathe(rounded, 28)


def _rails() -> Shape:
    return joined([box(0.06, 1.9, 0.06, 0.006).moved(x, 0.35, 1.56) for x in (-0.24, 0.24)])


def _rungs() -> Shape:
    rung = tube(np.linspace((-0.24, 0, 0), (0.24, 0, 0), 4), 0.022, 14)
    rungs = [rung.moved(0, -0.45 + 0.28 * i, 1.56) for i in range(6)]
    # Mirrored by hand and never turned back: one rung shows its inner side.
    return joined([*rungs[:3], rungs[3].flipped(), *rungs[4:]])


def _bracket() -> Shape:
    plate = box(0.02, 0.3, 0.1, 0.003)
    return joined(
        [plate, box(0.16, 0.02, 0.1, 0.003).moved(0.08, 0.14, 0), around(bolt(0.015, 0.02).moved(0.04, 0.15), 3)]
    )


def _figure() -> Shape:
    profile = [(0, 0), (0.2, 0), (0.16, 0.8), (0.24, 1.3), (0.1, 1.5), (0.12, 1.7), (0, 1.8)]
    return lathe(profile, 12)


def _scaffold() -> Shape:
    return joined([tube(np.linspace((x, 0, z), (x, 2.5, z), 2), 0.03, 8) for x in (-1.4, 1.4) for z in (-1.7, 1.7)])


def build_landing() -> dict[str, bytes]:
    """The scene as one usda file by name."""
    from pxr import Gf, Sdf, Usd, UsdGeom, UsdLux, UsdShade

    stage = Usd.Stage.CreateInMemory()
    UsdGeom.SetStageUpAxis(stage, UsdGeom.Tokens.z)
    UsdGeom.SetStageMetersPerUnit(stage, 0.01)
    root = UsdGeom.Xform.Define(stage, "/Landing")
    stage.SetDefaultPrim(root.GetPrim())
    shaders = {name: _material(stage, name) for name in MATERIALS}

    def mesh(path: str, shape: Shape, *materials: str) -> Any:
        return _mesh(stage, path, shape, [shaders[m] for m in materials])

    UsdGeom.Xform.Define(stage, "/Landing/Deck")
    mesh("/Landing/Deck/Planks", _planks(), "timber_deck")
    mesh("/Landing/Deck/Beams", _beams(), "timber_rail")
    UsdGeom.Xform.Define(stage, "/Landing/Ladder")
    mesh("/Landing/Ladder/Rails", _rails(), "timber_rail")
    mesh("/Landing/Ladder/Rungs", _rungs(), "iron")
    stage.CreateClassPrim("/_class_Post")
    mesh("/_class_Post/Post", _post(), "tarred")
    UsdGeom.Scope.Define(stage, "/Landing/Posts")
    for i, (x, y) in enumerate([(-110, -140), (110, -140), (-110, 0), (110, 0), (-110, 140), (110, 140)], 1):
        post = UsdGeom.Xform.Define(stage, f"/Landing/Posts/Post_{i}")
        post.AddTranslateOp().Set(Gf.Vec3d(x, y, -30))
        post.GetPrim().GetReferences().AddInternalReference("/_class_Post")
        post.GetPrim().SetInstanceable(True)
    for name, mirror in (("Bracket_left", 1), ("Bracket_right", -1)):
        bracket = mesh(f"/Landing/{name}", _bracket(), "iron")
        bracket.AddTranslateOp().Set(Gf.Vec3d(-90 * mirror, 152, 90))
        bracket.AddScaleOp().Set(Gf.Vec3f(mirror, 1, 1))
    figure = mesh("/Landing/ref_person", _figure(), "timber_deck")
    figure.AddTranslateOp().Set(Gf.Vec3d(0, 0, 108))
    scaffold = mesh("/Landing/Scaffold", _scaffold(), "iron")
    scaffold.GetVisibilityAttr().Set(UsdGeom.Tokens.invisible)
    UsdLux.DistantLight.Define(stage, "/Landing/Sun")
    UsdGeom.Camera.Define(stage, "/Landing/Survey")
    UsdShade.MaterialBindingAPI.Apply(root.GetPrim())
    text: str = stage.GetRootLayer().ExportToString()
    assert Sdf.Layer.CreateAnonymous(".usda").ImportFromString(text)
    return {f"{STEM}.usda": text.encode()}


def _material(stage: Any, name: str) -> Any:
    from pxr import Gf, Sdf, UsdShade

    color, metallic, roughness = MATERIALS[name]
    material = UsdShade.Material.Define(stage, f"/Landing/Looks/{name}")
    shader = UsdShade.Shader.Define(stage, f"/Landing/Looks/{name}/Surface")
    shader.CreateIdAttr("UsdPreviewSurface")
    shader.CreateInput("diffuseColor", Sdf.ValueTypeNames.Color3f).Set(Gf.Vec3f(*color))
    shader.CreateInput("metallic", Sdf.ValueTypeNames.Float).Set(metallic)
    shader.CreateInput("roughness", Sdf.ValueTypeNames.Float).Set(roughness)
    material.CreateSurfaceOutput().ConnectToSource(shader.ConnectableAPI(), "surface")
    return material


def _mesh(stage: Any, path: str, shape: Shape, materials: list[Any]) -> Any:
    """A mesh prim in centimetres, Z up, without normals, its UVs in metres of surface."""
    from pxr import Sdf, UsdGeom, UsdShade, Vt

    mesh = UsdGeom.Mesh.Define(stage, path)
    points = np.round(shape.points[:, [0, 2, 1]] * (100, -100, 100), 4).astype(np.float32)
    mesh.CreatePointsAttr(Vt.Vec3fArray.FromNumpy(np.ascontiguousarray(points)))
    mesh.CreateFaceVertexCountsAttr([len(face) for face in shape.faces])
    mesh.CreateFaceVertexIndicesAttr([v for face in shape.faces for v in face])
    mesh.CreateSubdivisionSchemeAttr(UsdGeom.Tokens.none)
    st = UsdGeom.PrimvarsAPI(mesh).CreatePrimvar("st", Sdf.ValueTypeNames.TexCoord2fArray, UsdGeom.Tokens.faceVarying)
    st.Set(Vt.Vec2fArray.FromNumpy(np.round(np.concatenate(shape.uvs), 5).astype(np.float32)))
    UsdShade.MaterialBindingAPI.Apply(mesh.GetPrim()).Bind(materials[0])
    return mesh
