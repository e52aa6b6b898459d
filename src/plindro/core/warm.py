"""Compiling the kernels once, on tiny data, so that no request and no test waits for it."""

from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor, as_completed
from contextlib import suppress
from dataclasses import replace
from multiprocessing import get_context

import numpy as np

from plindro.core.blocks.codecs import Codec
from plindro.core.blocks.decode import decode
from plindro.core.blocks.encode import Encoding
from plindro.core.blocks.encode import encode as compress
from plindro.core.destinations import DESTINATIONS
from plindro.core.files import MemoryFiles, read_scene
from plindro.core.line import override
from plindro.core.lines import LINES
from plindro.core.measure.occlusion import vertex_occlusion
from plindro.core.mesh.mesh import Mesh, make_mesh, make_triangles
from plindro.core.packing import Sheet
from plindro.core.polygons import set_diagonals, triangulate
from plindro.core.prop import Prop
from plindro.core.reduction import Limits, Plane, curvature, mirrored_sequence, outline, reduce_mesh
from plindro.core.rehearsal.light_map import judge_light_map
from plindro.core.remesh import even_mesh
from plindro.core.scene import Material, Part, Texture
from plindro.core.shading.normals import Weights, normals_by_angle
from plindro.core.shading.tangents import corner_tangents
from plindro.core.sheets.shared import share_sheet
from plindro.core.shipping import prepare
from plindro.core.spatial.nearest import triangles_at
from plindro.core.stations.cleanup import CleanupSettings, clean
from plindro.core.textures.images import encode
from plindro.core.unwrap.halving import part_overlapping
from plindro.core.unwrap.light_map import lay_light_map
from plindro.core.unwrap.repacking import repack
from plindro.core.unwrap.surface import read_surface
from plindro.core.unwrap.unwrap import unwrap_mesh
from plindro.core.unwrap.wishes import Wishes
from plindro.core.uvs.judge import judge_channel
from plindro.core.viewing.picture import render_picture


def _sample_obj() -> bytes:
    """A small prop with quads, an octagon with a notch, UVs, two materials and smoothing groups."""
    lines = ["o sample"]
    n = 12
    for i in range(n + 1):
        for j in range(n + 1):
            height = 0.1 * np.sin(i) * np.cos(j)
            lines += [f"v {i / n:.4f} {height:.4f} {j / n:.4f}", f"vt {i / n:.4f} {j / n:.4f}"]
    for i in range(n):
        lines.append(f"usemtl {'a' if i < n // 2 else 'b'}")
        lines.append(f"s {1 + i % 2}")
        for j in range(n):
            a = i * (n + 1) + j + 1
            corners = (a, a + 1, a + n + 2, a + n + 1)
            lines.append("f " + " ".join(f"{c}/{c}" for c in corners))
    outline = [(0, 0), (1, 0), (1, 1), (0.6, 1), (0.5, 0.4), (0.4, 1), (0, 1), (0, 0.5)]
    lines += [f"v {x} {y} 2" for x, y in outline]
    lines.append("f " + " ".join(str(i - len(outline)) for i in range(len(outline))))
    return "\n".join(lines).encode()


def _sample_ply(encoding: str) -> bytes:
    """One triangle as PLY."""
    axes = "".join(f"property float {axis}\n" for axis in "xyz")
    lists = "element face 1\nproperty list uchar int vertex_indices\n"
    head = f"ply\nformat {encoding} 1.0\nelement vertex 3\n{axes}{lists}end_header\n".encode()
    if encoding == "ascii":
        return head + b"0 0 0\n1 0 0\n0 1 0\n3 0 1 2\n"
    return head + np.array([0, 0, 0, 1, 0, 0, 0, 1, 0], "<f4").tobytes() + b"\3" + np.arange(3, dtype="<i4").tobytes()


def _clean_dirty() -> None:
    """A mesh with a fault of every kind through all checks and repairs."""
    cube = [[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)]
    quads = np.array([[0, 1, 3, 2], [4, 6, 7, 5], [0, 4, 5, 1], [2, 3, 7, 6], [0, 2, 6, 4], [1, 5, 7, 3]])
    points = np.concatenate([cube, np.array(cube) * 0.4 + 0.3, np.array(cube) + (1, 1, 0), np.array(cube) + (5, 0, 0)])
    inside_out = quads[:, ::-1] + 8
    touching = np.where(np.isin(quads, [0, 1]), quads + 6, quads + 16)
    faces = [*quads, *inside_out, *touching, *(quads[1:, [0, 2, 1, 3]] + 24), quads[0], quads[0][::-1]]
    flat = np.concatenate([*faces, [24, 25, 25, 26]])
    mesh = make_mesh(points, np.arange(0, len(flat) + 1, 4), flat)
    clean(mesh, CleanupSettings(slivers=True, small_shells=True, holes=True, hole_mm=10_000))
    xs = [[0, 0, 0], [2, 0, 0], [0, 1, 0], [2, 1, 0], [1, 1, 0], [0, 2, 0], [1, 2, 0], [2, 2, 0]]
    strip = [[0, 1, 3, 2], [2, 4, 6, 5], [4, 3, 7, 6]]
    clean(make_mesh(np.array(xs), np.arange(0, 13, 4), np.array(strip).reshape(-1)), CleanupSettings())
    near = np.array(
        [[0, 0, 0], [1, 0, 0], [1, 0, 1], [0, 0, 1], [1 + 1e-6, 0, 0], [2, 0, 0], [2, 0, 1], [1 + 1e-6, 0, 1]]
    )
    clean(make_mesh(near, np.arange(0, 9, 4), np.arange(8)), CleanupSettings())


def _turn_and_slant() -> None:
    """A diagonal set by hand, and tangents for a normal map: what the sample does not ask for."""
    square = np.array([[0.0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]])
    uv = square[:, :2].astype(np.float32)
    mesh = make_mesh(square, np.array([0, 4]), np.arange(4), normals=np.tile([0.0, 0, 1], (4, 1)), uvs=(uv,))
    cut = triangulate(mesh, ngons="shapely")
    corners, _ = set_diagonals(mesh, cut.corners, cut.mesh.face_polygon, square[None, [1, 3]])
    turned = mesh.with_corners(corners, np.arange(0, 7, 3), np.zeros(2, np.int32))
    corner_tangents(turned)
    for weights in (Weights("area"), Weights("large")):
        normals_by_angle(turned, 30.0, weights=weights)


def _waves() -> tuple[Mesh, Mesh]:
    """A wavy sheet with nothing but points, and the same with everything."""
    axis = np.linspace(0.0, 1.0, 7)
    x, z = (grid.reshape(-1) for grid in np.meshgrid(axis, axis, indexing="ij"))
    points = np.stack([x, 0.1 * np.sin(7 * x) * np.cos(5 * z), z], axis=1)
    first = (np.arange(6)[:, None] * 7 + np.arange(6)).reshape(-1)
    quads = np.stack([first, first + 1, first + 8, first + 7], axis=1)
    triangles = np.concatenate([quads[:, [0, 1, 2]], quads[:, [0, 2, 3]]])
    plain = make_triangles(points, triangles)
    uv = points[triangles.reshape(-1)][:, [0, 2]] + (x[triangles.reshape(-1)][:, None] > 0.5)
    return plain, replace(plain, normals=normals_by_angle(plain, 10.0), uvs=(uv.astype(np.float32),))


def _ring() -> Mesh:
    """A square ring, which has a through-hole to close."""
    square = np.array([[0, 0], [1, 0], [1, 1], [0, 1]]) - 0.5
    loops = [(1.0, 0.0), (1.0, 0.3), (0.5, 0.3), (0.5, 0.0)]
    points = np.concatenate([np.insert(square * size, 1, height, axis=1) for size, height in loops])
    i, k = (grid.reshape(-1) for grid in np.meshgrid(np.arange(4), np.arange(4), indexing="ij"))
    a, b, c, d = (4 * (row % 4) + column % 4 for row, column in ((i, k), (i, k + 1), (i + 1, k + 1), (i + 1, k)))
    return make_triangles(points, np.concatenate([np.stack([a, c, b], axis=1), np.stack([a, d, c], axis=1)]))


def _tray() -> Mesh:
    """A flat floor of many triangles with a steep rim around it: one large chart, and small ones to join it."""
    n = 20
    axis = np.clip(np.arange(n + 1.0), 0.7, n - 0.7)
    x, z = (grid.reshape(-1) for grid in np.meshgrid(axis, axis, indexing="ij"))
    rim = (np.minimum(x, z) < 1.0) | (np.maximum(x, z) > n - 1.0)
    first = (np.arange(n)[:, None] * (n + 1) + np.arange(n)).reshape(-1)
    a, b, c, d = first, first + 1, first + n + 2, first + n + 1
    triangles = np.concatenate([np.stack([a, b, c], axis=1), np.stack([a, c, d], axis=1)])
    return make_triangles(np.stack([x, 1.0 * rim, z], axis=1), triangles)


def _reduce_freely() -> None:
    """Vertices put where the error is least, the mirror, and the weights; a through-hole that closes."""
    reduce_mesh(_ring(), Limits(triangles=4), placement="optimal")
    for mesh in _waves():
        reduce_mesh(mesh, Limits(tolerance=5.0), placement="optimal", weight=1.0 + outline(mesh) + curvature(mesh))
        mirrored_sequence(mesh, Plane(np.array([1.0, 0.0, 0.0]), 0.45), {})


def _reduce_within() -> None:
    """The source's own vertices, a patch that is clicked, and even triangles."""
    for mesh in _waves():
        triangles_at(mesh.positions, mesh.triangles(), mesh.positions[:1], np.array([[0.0, 1.0, 0.0]]), 0.5)
        reduce_mesh(mesh, Limits(tolerance=5.0), placement="original", weight=np.ones(len(mesh.positions)))
        # So few triangles may give no surface; the kernels have run by then.
        with suppress(ValueError):
            even_mesh(mesh, 12)


def _judge_uvs() -> None:
    """A channel of several islands over several squares, two made anew, and a light map."""
    plain, full = _waves()
    judge_channel(full, 0, 64, 1)
    for mesh in (plain, _tray()):
        unwrap_mesh(mesh, Sheet(64, 64, 2, 1), lambda done, doing: None)
    lay_light_map(full, 64, 2, lambda done, doing: None)
    # Triangles that all lie in one place are parted to the last one.
    surface = read_surface(plain)
    part_overlapping(
        surface, np.zeros(len(surface.areas), np.int32), np.tile(surface.flat[:1], (len(surface.areas), 1, 1))
    )
    second = np.arange(full.n_faces) >= full.n_faces // 2
    parted = replace(full, uvs=(full.uvs[0] + np.repeat(second, 3)[:, None].astype(np.float32) * 2.0,))
    locked = np.arange(full.n_faces) == 0
    repack(parted, 0, Sheet(64, 64, 1, 1), lambda done, doing: None, wishes=Wishes(locked=locked))


def _share_sheet() -> None:
    """A prop with a texture, on a sheet."""
    image = encode("grey.png", np.full((4, 4, 1), 128, np.uint8))
    material = Material("grey", textures=(("base_color", Texture(0)),))
    prop = Prop("sheet", _waves()[1], (Part("sheet", "sheet"),), (material,), (image,))
    share_sheet("sheet", [prop], Sheet(64, 64, 1, 1), lambda done, doing: None, tiling="repeat")


def _compress(codec: Codec) -> None:
    pixels = np.zeros((4, 8, 4), np.uint8)
    decode(compress(pixels, Encoding(codec)), codec, 8, 4)


def _compress_small() -> None:
    """BC1, BC3, BC4 and BC5 are one kernel."""
    _compress("bc1")


def _compress_bc7() -> None:
    _compress("bc7")


def _read_plain() -> None:
    for encoding in ("ascii", "binary_little_endian"):
        read_scene(_sample_ply(encoding), "sample.ply")


def _prepare() -> None:
    """A tiny prop down the line, twice: from polygons, and from what was written of it."""
    line = override(LINES[0], {"normals": {"source": "angle"}})
    result = prepare(_sample_obj(), "sample.obj", MemoryFiles({}), line, DESTINATIONS[0])
    prepare(result.files[0].data, "sample.glb", MemoryFiles({}), LINES[0], DESTINATIONS[0])
    render_picture(result.built.prop, 32)
    first = result.built.prop.levels[0].mesh
    vertex_occlusion(first, 1.0)
    judge_light_map(0, {0: first.uvs[0].astype(np.float64)}, first.triangles().astype(np.int64))


_PARTS: tuple[tuple[str, Callable[[], None]], ...] = (
    ("reduction", _reduce_freely),
    ("cleanup", _clean_dirty),
    ("polygons and tangents", _turn_and_slant),
    ("readers", _read_plain),
    ("BC7", _compress_bc7),
    ("blocks", _compress_small),
    ("UVs", _judge_uvs),
    ("sheets", _share_sheet),
    ("the line", _prepare),
    ("reduction to own vertices", _reduce_within),
)
"""In the order in which two processes take them: what two parts share, the earlier has compiled by then."""


def warm_up(on_progress: Callable[[float, str], None] | None = None) -> None:
    """Run tiny data through everything that is compiled, on two cores."""
    say = on_progress or (lambda fraction, doing: None)
    say(0.0, "starting")
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as processes:
        parts = {processes.submit(part): name for name, part in _PARTS}
        for done, part in enumerate(as_completed(parts), start=1):
            part.result()
            say(done / len(parts), parts[part])
