"""Reduction beside two libraries: bare geometry, with UVs and normals, time, memory."""

import ctypes
import subprocess
import sys
import time
from collections.abc import Callable
from functools import partial

import meshoptimizer
import numpy as np
from meshoptimizer._loader import lib

from benchmarks.bare import PLACEMENTS, SHARES, Soup, bare, mean_of, meshopt, welded
from benchmarks.meshes import hilly_sphere
from plindro.core.destinations import DESTINATIONS
from plindro.core.files import MemoryFiles, read_scene
from plindro.core.line import override, run_line
from plindro.core.lines import get_line
from plindro.core.measure.deviation import DeviationFrom
from plindro.core.mesh.geometry import face_vectors, unit
from plindro.core.mesh.mesh import Mesh, make_triangles
from plindro.core.mesh.streams import vertex_stream
from plindro.core.reduction import collapse
from plindro.core.report import Report
from plindro.core.spatial.nearest import triangles_at
from plindro.core.spatial.samples import even_samples
from plindro.demo.catalogue import DEMO_PROPS, build_prop


def _declare_attributes() -> None:
    """The binding leaves these out."""
    number, size, single = ctypes.POINTER(ctypes.c_uint), ctypes.c_size_t, ctypes.POINTER(ctypes.c_float)
    lib.meshopt_simplifyWithAttributes.argtypes = [
        number, number, size, single, size, size, single, size, single, size, ctypes.POINTER(ctypes.c_ubyte), size,
        ctypes.c_float, ctypes.c_uint, single,
    ]  # fmt: skip
    lib.meshopt_simplifyWithAttributes.restype = size


def _meshopt_attributes(mesh: Mesh, count: int) -> Mesh:
    """Its attribute mode on the engine's vertices: normals weigh 0.5, UVs 1."""
    assert mesh.normals is not None
    stream = vertex_stream(mesh)
    corners = stream.corners
    points = mesh.positions[mesh.corner_vertex[corners]].astype(np.float32)
    values = np.ascontiguousarray(np.concatenate([mesh.normals[corners], mesh.uvs[0][corners]], axis=1), np.float32)
    index = stream.corner_index.astype(np.uint32)
    out = np.zeros_like(index)
    n = meshoptimizer.simplify_with_attributes(
        out, index, points, values, np.array([0.5] * 3 + [1.0] * 2, np.float32),
        vertex_lock=np.zeros(len(points), np.uint8), target_index_count=3 * count, target_error=1.0,
    )  # fmt: skip
    t = out[:n].astype(np.int64)
    return make_triangles(points.astype(float), t.reshape(-1, 3), normals=values[t, :3], uvs=(values[t, 3:],))


def _drift(source: Mesh, level: Mesh) -> float:
    """Mean distance in texels of 1024 between a level's UV and the source's at the nearest place that faces its way."""
    face, weights = even_samples(level, 20_000)
    places = np.einsum("ij,ijk->ik", weights, level.positions[level.triangles()[face]])
    facing = unit(face_vectors(level))[face]
    found = triangles_at(source.positions, source.triangles(), places, facing, 0.5)
    ok = found >= 0
    corners = source.positions[source.triangles()[found[ok]]]
    first, second, away = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0], places[ok] - corners[:, 0]
    normal = np.cross(first, second)
    size = np.maximum((normal**2).sum(axis=1), 1e-300)
    v = (np.cross(away, second) * normal).sum(axis=1) / size
    w = (np.cross(first, away) * normal).sum(axis=1) / size
    bary = np.clip(np.stack([1 - v - w, v, w], axis=1), 0.0, 1.0)
    bary /= bary.sum(axis=1, keepdims=True)
    there = np.einsum("ij,ijk->ik", bary, source.uvs[0].reshape(-1, 3, 2)[found[ok]].astype(float))
    own = np.einsum("ij,ijk->ik", weights, level.uvs[0].reshape(-1, 3, 2)[face].astype(float))[ok]
    # Across a seam the nearest place may lie on another island; what is far off counts as 64 texels.
    return float(np.minimum(1024 * np.linalg.norm(own - there, axis=1), 64.0).mean())


def _props() -> dict[str, Mesh]:
    """LOD0 of every demo prop: dirty sources of many parts, cleaned, with UVs, normals and several materials."""
    line = override(get_line("standing"), {"levels": {"levels": []}})
    meshes = {}
    for stem in DEMO_PROPS:
        files = build_prop(stem)
        name = next(iter(files))
        scene = read_scene(files[name], name, MemoryFiles(files))
        mesh = run_line(scene, line, DESTINATIONS[0], Report()).prop.levels[0].mesh
        if mesh.uvs and mesh.normals is not None:
            meshes[stem] = mesh
    return meshes


def _textured(props: dict[str, Mesh]) -> None:
    """Deviation, UV drift and triangles reached, as ratios to the attribute mode at the same count."""
    _declare_attributes()
    ratios: dict[tuple[str, str, float], list[float]] = {}
    for mesh in props.values():
        ruler = DeviationFrom(mesh)
        beside = {share: _meshopt_attributes(mesh, int(mesh.n_faces * share)) for share in SHARES}
        sequences = {placement: collapse(mesh, placement=placement) for placement in PLACEMENTS}
        for share, other in beside.items():
            mean, drift = ruler.measure(other).mean, _drift(mesh, other)
            for placement, sequence in sequences.items():
                count = max(int(mesh.n_faces * share), other.n_faces)
                level = sequence.level(sequence.step_of_triangles(count))
                reached = sequence.triangles_at[sequence.step_of_triangles(int(mesh.n_faces * share))]
                for what, ratio in (
                    ("mean deviation", (ruler.measure(level).mean + 1e-6) / (mean + 1e-6)),
                    ("UV drift", (_drift(mesh, level) + 0.05) / (drift + 0.05)),
                    ("triangles reached", reached / other.n_faces),
                ):
                    ratios.setdefault((placement, what, share), []).append(float(ratio))
    for placement in PLACEMENTS:
        for what in ("mean deviation", "UV drift", "triangles reached"):
            row = "  ".join(mean_of(ratios[placement, what, share]) for share in SHARES)
            print(f"  {len(props)} props with UVs, {placement} / meshoptimizer with attributes, {what}: {row}")


def _times() -> None:
    """The whole sequence on one thread against single calls of the library to 2 % and its four together."""
    for n in (42, 250, 500):
        points, triangles = hilly_sphere(n)
        mesh = make_triangles(points, triangles)
        best: dict[str, float] = {}
        for _ in range(3 if n > 100 else 20):
            calls: list[tuple[str, Callable[[], object]]] = [
                *((placement, partial(collapse, mesh, placement=placement, n_threads=1)) for placement in PLACEMENTS),
                ("one", partial(meshopt, points, triangles, int(len(triangles) * SHARES[-1]))),
                ("four", lambda p=points, t=triangles: [meshopt(p, t, int(len(t) * share)) for share in SHARES]),
            ]
            for name, work in calls:
                start = time.process_time()
                work()
                best[name] = min(best.get(name, np.inf), time.process_time() - start)
        row = ", ".join(f"{p} {best[p]:.3f} s ({best[p] / best['one']:.2f} ×)" for p in PLACEMENTS)
        beside = f"meshoptimizer {best['one']:.3f}, four {best['four']:.3f} s"
        print(f"  {len(triangles)} triangles, whole sequence: {row}; {beside}")


_LARGE = """
import resource, sys, time
import numpy as np
from benchmarks.meshes import hilly_sphere
from benchmarks.bare import meshopt
from plindro.core.mesh.mesh import make_triangles
from plindro.core.reduction import collapse
points, triangles = hilly_sphere(1304)
before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
if sys.argv[1] == "meshoptimizer":
    work = lambda: meshopt(points, triangles, 32_500)
else:
    collapse(make_triangles(*hilly_sphere(20)), placement=sys.argv[1])
    mesh = make_triangles(points, triangles)
    work = lambda: collapse(mesh, placement=sys.argv[1], least_triangles=32_500, n_threads=1)
start = time.process_time()
work()
seconds = time.process_time() - start
peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
memory = f"peak {peak / 1024:.0f} MB, {before / 1024:.0f} before"
print(f"{len(triangles)} to 32500: {sys.argv[1]} {seconds:.1f} s, {memory}")
"""


def _large() -> None:
    """6.8 million triangles, each in a process of its own, so that the peak of memory is its own."""
    for name in ("meshoptimizer", *PLACEMENTS):
        done = subprocess.run([sys.executable, "-c", _LARGE, name], capture_output=True, text=True, check=True)
        print(f"  {done.stdout.strip()}")


def reduction(*files: str) -> None:
    """Deviation in 1e-6 of the diagonal at 50, 25, 10, 2 %, in brackets the ratio to meshoptimizer; then the rest.

    With ``files`` the bare geometry of those, and nothing else.
    """
    if files:
        bare({}, files)
        return
    props = _props()
    more: dict[str, Callable[[], Soup]] = {f"demo, {stem}": partial(welded, mesh) for stem, mesh in props.items()}
    bare(more)
    _textured(props)
    _times()
    _large()
