"""glTF/GLB: nodes with their transforms baked, every primitive of every mesh, as one polygon mesh with parts.

A glTF file holds engine vertices: points split at every seam. Positions are welded back where they are exactly equal
within one node's mesh, so that topology sees one surface; what split them lives on as corner attributes.
"""

from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from pathlib import PurePosixPath
from typing import Any

import numpy as np
from numpy.typing import NDArray

from plindro.core.files.gltf.accessors import read_accessor
from plindro.core.files.gltf.compressed import decode_draco
from plindro.core.files.gltf.container import Document, open_document
from plindro.core.files.gltf.materials import MaterialReader
from plindro.core.files.limits import Census
from plindro.core.files.obj.mtl import plain_material
from plindro.core.files.sidefiles import SideFiles
from plindro.core.findings import Finding, Severity
from plindro.core.mesh.mesh import F32, F64, I32, Mesh, make_mesh
from plindro.core.mesh.numbering import weld_positions
from plindro.core.scene import COLLISION_PROXY, Bystander, Material, Part, Scene, is_flattening, with_own_paths

TRIANGLES, STRIP, FAN = 4, 5, 6
_OTHER_MODES = {0: "points", 1: "lines", 2: "lines", 3: "lines"}
_LISTED = {"animations": "animations", "skins": "skins"}


@dataclass(slots=True)
class _Piece:
    """One primitive: (n, 3) float64 positions, (t, 3) indices and (n, width) attributes, in the scene's space."""

    positions: F64
    triangles: I32
    normals: F32 | None
    uvs: list[F32]
    colors: F32 | None
    material: int


@dataclass(slots=True)
class _Gathered:
    """Pieces of the whole scene, by the part they belong to."""

    parts: list[Part] = field(default_factory=list)
    bystanders: list[Bystander] = field(default_factory=list)
    pieces: list[list[_Piece]] = field(default_factory=list)
    unused: dict[str, int] = field(default_factory=dict)

    def count(self, what: str, number: int = 1) -> None:
        if number:
            self.unused[what] = self.unused.get(what, 0) + number


def read_gltf(data: bytes, name: str, side_files: SideFiles, census: Census) -> Scene:
    """Read GLB or glTF bytes into a scene; raises ``UnreadableFile`` where the file does not hold together."""
    document = open_document(data, name, side_files)
    gathered = _Gathered()
    census.at_most(nodes=len(document.rows("nodes")))
    for key, word in _LISTED.items():
        gathered.count(word, len(document.rows(key)))
    cache: dict[int, list[_Piece]] = {}
    for spot in _walk(document, census):
        node = spot.node
        if node.get("mesh") is None or _is_proxy(node):
            gathered.bystanders.append(Bystander(spot.name, spot.path, _kind(node)))
            continue
        if node["mesh"] not in cache:
            cache[node["mesh"]] = list(_read_mesh(document, node["mesh"], gathered))
        copies = _instances(document, node, spot.matrix, census)
        for piece in cache[node["mesh"]]:
            census.add(vertices=len(copies) * len(piece.positions), faces=len(copies) * len(piece.triangles))
        for number, matrix in enumerate(copies):
            pieces = [_placed(piece, matrix) for piece in cache[node["mesh"]]]
            if pieces:
                label = spot.name if len(copies) == 1 else f"{spot.name}_{number + 1}"
                gathered.parts.append(_part(document, spot, label, matrix))
                gathered.pieces.append(pieces)
    if len(document.rows("scenes")) > 1:
        gathered.count("further scenes", len(document.rows("scenes")) - 1)

    reader = MaterialReader(document)
    every = [piece for pieces in gathered.pieces for piece in pieces]
    used = sorted({piece.material for piece in every})
    plain = plain_material("default", is_colored=any(p.material < 0 and p.colors is not None for p in every))
    materials: list[Material] = [plain if m < 0 else reader.read(m) for m in used]
    findings = list(reader.findings)
    for what, number in reader.unused.items():
        gathered.count(what, number)
    mesh = _join(gathered, {m: i for i, m in enumerate(used)}, findings)
    return Scene(
        name=PurePosixPath(name).stem,
        format="GLB" if document.binary is not None or data[:4] == b"glTF" else "glTF",
        mesh=mesh,
        parts=with_own_paths(gathered.parts),
        materials=tuple(materials),
        images=tuple(reader.images),
        unused=tuple(sorted(gathered.unused.items())),
        findings=tuple(findings),
        bystanders=tuple(b for b in gathered.bystanders if b.kind != "group"),
        unused_materials=tuple(
            str(row.get("name") or f"material_{i}") for i, row in enumerate(document.rows("materials")) if i not in used
        ),
        says_unit=True,
    )


@dataclass(frozen=True, slots=True)
class _Spot:
    """A node of the scene: its name, the path to it, what lies above it, its world matrix, and whether it is hidden."""

    node: dict[str, Any]
    name: str
    path: str
    top: str
    group: str
    matrix: F64
    is_hidden: bool


def _is_proxy(node: dict[str, Any]) -> bool:
    """Whether a node says of itself that it is a collision proxy, and nothing to be drawn."""
    extras = node.get("extras")
    return isinstance(extras, dict) and "collision" in extras


def _kind(node: dict[str, Any]) -> str:
    """What a node without a mesh is; a group where others hang below it."""
    if _is_proxy(node):
        return COLLISION_PROXY
    if node.get("camera") is not None:
        return "camera"
    extensions = node.get("extensions")
    if isinstance(extensions, dict) and "KHR_lights_punctual" in extensions:
        return "light"
    return "group" if node.get("children") else "empty"


def _part(document: Document, spot: _Spot, label: str, matrix: F64) -> Part:
    path = spot.path if label == spot.name else f"{spot.path.rpartition('/')[0]}/{label}".lstrip("/")
    x, y, z = matrix[:3, 3].tolist()
    return Part(
        label,
        path,
        parent=spot.top,
        group=spot.group,
        is_hidden=spot.is_hidden,
        source_mesh=f"mesh {spot.node['mesh']}",
        is_mirrored=bool(np.linalg.det(matrix[:3, :3]) < 0),
        is_flattened=is_flattening(matrix[:3, :3]),
        origin=(x, y, z),
    )


def _instances(document: Document, node: dict[str, Any], matrix: F64, census: Census) -> list[F64]:
    """World matrices of a node's mesh: one, or those of EXT_mesh_gpu_instancing."""
    extensions = node.get("extensions")
    row = extensions.get("EXT_mesh_gpu_instancing") if isinstance(extensions, dict) else None
    attributes = row.get("attributes") if isinstance(row, dict) else None
    if not isinstance(attributes, dict) or not attributes:
        return [matrix]
    columns = {}
    for key, name in (("TRANSLATION", "translation"), ("ROTATION", "rotation"), ("SCALE", "scale")):
        if key in attributes:
            columns[name] = read_accessor(document, attributes[key])
    count = min((len(rows) for rows in columns.values()), default=0)
    census.add(nodes=count)
    rows = ({name: values[i].tolist() for name, values in columns.items()} for i in range(count))
    return [matrix @ _local_matrix(document, row) for row in rows]


def _walk(document: Document, census: Census) -> Iterator[_Spot]:
    """Nodes of the default scene. A single root that only holds the others is no parent of anything."""
    nodes = document.rows("nodes")
    scenes = document.rows("scenes")
    if scenes:
        roots = document.row("scenes", document.json.get("scene", 0)).get("nodes", [])
    else:
        children = {c for node in nodes for c in node.get("children", []) if isinstance(c, int)}
        roots = [i for i in range(len(nodes)) if i not in children]
    if not isinstance(roots, list):
        raise document.fail("the scene's 'nodes' is not a list")
    wrapper = _wrapper(document, roots)
    stack = [_Waiting(i, "", "", "", np.eye(4), False, 1) for i in reversed(roots)]
    seen: set[int] = set()
    while stack:
        above = stack.pop()
        node = document.row("nodes", above.index)
        if above.index in seen:
            raise document.fail(f"node {above.index} hangs in two places or below itself")
        seen.add(above.index)
        census.at_most(depth=above.depth)
        matrix = above.matrix @ _local_matrix(document, node)
        mesh = node.get("mesh")
        label = node.get("name") or (document.row("meshes", mesh).get("name") if mesh is not None else None)
        name = str(label or f"node_{above.index}")
        path = f"{above.path}/{name}" if above.path else name
        is_wrapper = above.index == wrapper
        top = above.top or ("" if is_wrapper else path)
        hidden = above.is_hidden or _is_hidden(node)
        yield _Spot(node, name, path, top, above.group, matrix, hidden)
        children_of = node.get("children", [])
        if not isinstance(children_of, list):
            raise document.fail(f"the children of node {above.index} are not a list")
        group = path if mesh is None and not is_wrapper else above.group
        stack += [_Waiting(child, path, top, group, matrix, hidden, above.depth + 1) for child in reversed(children_of)]


@dataclass(frozen=True, slots=True)
class _Waiting:
    """A node still to be visited, and what lies above it."""

    index: Any
    path: str
    top: str
    group: str
    matrix: F64
    is_hidden: bool
    depth: int


def _wrapper(document: Document, roots: list[Any]) -> int:
    """The single root without a mesh that holds everything else, -1 where there is none."""
    if len(roots) != 1:
        return -1
    node = document.row("nodes", roots[0])
    return roots[0] if node.get("mesh") is None and node.get("children") else -1


def _is_hidden(node: dict[str, Any]) -> bool:
    """Hidden by KHR_node_visibility, or by a remark of the exporter."""
    extensions, extras = node.get("extensions"), node.get("extras")
    row = extensions.get("KHR_node_visibility") if isinstance(extensions, dict) else None
    if isinstance(row, dict) and row.get("visible") is False:
        return True
    return isinstance(extras, dict) and (extras.get("visible") is False or extras.get("hidden") is True)


def _local_matrix(document: Document, node: dict[str, Any]) -> F64:
    def vector(key: str, default: list[float]) -> F64:
        value = node.get(key, default)
        try:
            array = np.array(value, np.float64)
        except (TypeError, ValueError) as error:
            raise document.fail(f"a node's '{key}' is not made of numbers") from error
        if array.shape != (len(default),) or not np.isfinite(array).all():
            raise document.fail(f"a node's '{key}' is not {len(default)} finite numbers")
        return array

    if "matrix" in node:
        return vector("matrix", [0.0] * 16).reshape(4, 4).T
    matrix = np.eye(4)
    if "rotation" in node:
        x, y, z, w = vector("rotation", [0.0, 0.0, 0.0, 1.0])
        length = x * x + y * y + z * z + w * w
        s = 2.0 / length if length > 0 else 0.0
        matrix[:3, :3] = [
            [1 - s * (y * y + z * z), s * (x * y - z * w), s * (x * z + y * w)],
            [s * (x * y + z * w), 1 - s * (x * x + z * z), s * (y * z - x * w)],
            [s * (x * z - y * w), s * (y * z + x * w), 1 - s * (x * x + y * y)],
        ]
    if "scale" in node:
        matrix[:3, :3] *= vector("scale", [1.0, 1.0, 1.0])
    if "translation" in node:
        matrix[:3, 3] = vector("translation", [0.0, 0.0, 0.0])
    return matrix


def _read_mesh(document: Document, index: Any, gathered: _Gathered) -> Iterator[_Piece]:
    mesh = document.row("meshes", index)
    primitives = mesh.get("primitives", [])
    if not isinstance(primitives, list):
        raise document.fail(f"meshes[{index}] has no list of primitives")
    for primitive in primitives:
        if not isinstance(primitive, dict):
            raise document.fail(f"meshes[{index}] has a primitive that is no object")
        mode = primitive.get("mode", TRIANGLES)
        if mode in _OTHER_MODES:
            gathered.count(_OTHER_MODES[mode])
            continue
        gathered.count("morph targets", len(primitive.get("targets", [])))
        piece = _read_primitive(document, primitive, mode)
        if piece is not None:
            yield piece


def _read_primitive(document: Document, primitive: dict[str, Any], mode: Any) -> _Piece | None:
    attributes = primitive.get("attributes", {})
    if not isinstance(attributes, dict):
        raise document.fail("a primitive's 'attributes' is no object")
    if "POSITION" not in attributes:
        return None
    extensions = primitive.get("extensions")
    packed = extensions.get("KHR_draco_mesh_compression") if isinstance(extensions, dict) else None
    draco = decode_draco(document, packed, attributes) if isinstance(packed, dict) else None

    def values_of(key: str) -> NDArray[Any]:
        if draco is not None and key in draco.attributes:
            return draco.attributes[key]
        return read_accessor(document, attributes[key])

    positions = values_of("POSITION").astype(np.float64)
    count = len(positions)
    if positions.shape[1] != 3:
        raise document.fail("positions do not have three coordinates")

    def attribute(key: str, widths: tuple[int, ...]) -> F32 | None:
        if key not in attributes:
            return None
        values = values_of(key)
        if len(values) != count or values.shape[1] not in widths:
            raise document.fail(f"{key} has {values.shape} values for {count} vertices")
        if key.startswith("COLOR") and values.dtype != np.float32:
            values = values.astype(np.float32) / np.float32(np.iinfo(values.dtype).max)
        return values.astype(np.float32)

    if draco is not None:
        indices = draco.indices
    elif primitive.get("indices") is None:
        indices = np.arange(count, dtype=np.int64)
    else:
        indices = read_accessor(document, primitive["indices"]).reshape(-1).astype(np.int64)
    if len(indices) and int(indices.max()) >= count:
        raise document.fail(f"an index names vertex {int(indices.max())} of {count}")
    uvs: list[F32] = []
    while (uv := attribute(f"TEXCOORD_{len(uvs)}", (2,))) is not None:
        uvs.append(uv)
    colors = attribute("COLOR_0", (3, 4))
    if colors is not None and colors.shape[1] == 3:
        colors = np.concatenate([colors, np.ones((count, 1), np.float32)], axis=1)
    material = primitive.get("material")
    if material is not None:
        document.row("materials", material)
    return _Piece(
        positions=positions,
        triangles=_triangle_list(document, indices, mode).astype(np.int32),
        normals=attribute("NORMAL", (3,)),
        uvs=uvs,
        colors=colors,
        material=-1 if material is None else material,
    )


def _triangle_list(document: Document, indices: NDArray[np.int64], mode: Any) -> NDArray[np.int64]:
    """(t, 3) indices from a list, strip or fan; every second triangle of a strip is turned."""
    if mode == TRIANGLES:
        if len(indices) % 3:
            raise document.fail(f"a triangle list has {len(indices)} indices, which is no multiple of three")
        return indices.reshape(-1, 3)
    if mode == STRIP:
        strip = np.stack([indices[:-2], indices[1:-1], indices[2:]], axis=1) if len(indices) > 2 else indices[:0]
        strip = strip.reshape(-1, 3)
        strip[1::2] = strip[1::2, [1, 0, 2]]
        return strip
    if mode == FAN:
        if len(indices) < 3:
            return np.zeros((0, 3), np.int64)
        return np.stack([np.full(len(indices) - 2, indices[0]), indices[1:-1], indices[2:]], axis=1)
    raise document.fail(f"a primitive has the unknown mode {mode!r}")


def _placed(piece: _Piece, matrix: F64) -> _Piece:
    """The piece under a world matrix: normals by the inverse transpose, winding turned where it mirrors."""
    if np.array_equal(matrix, np.eye(4)):
        return piece
    linear = matrix[:3, :3]
    determinant = float(np.linalg.det(linear))
    normals = piece.normals
    if normals is not None:
        cofactors = np.linalg.inv(linear).T * determinant if determinant else np.zeros((3, 3))
        turned = normals.astype(np.float64) @ (cofactors * (1.0 if determinant >= 0 else -1.0)).T
        normals = turned.astype(np.float32)
    # Places that are not finite stay so; Cleanup takes them out.
    with np.errstate(invalid="ignore", over="ignore"):
        positions = piece.positions @ linear.T + matrix[:3, 3]
    return replace(
        piece,
        positions=positions,
        triangles=piece.triangles[:, [0, 2, 1]] if determinant < 0 else piece.triangles,
        normals=normals,
    )


def _join(gathered: _Gathered, material_index: dict[int, int], findings: list[Finding]) -> Mesh:
    """All pieces as one mesh; positions are welded within each part."""
    every = [piece for pieces in gathered.pieces for piece in pieces]
    n_uvs = max((len(piece.uvs) for piece in every), default=0)
    has_normals = any(piece.normals is not None for piece in every)
    has_colors = any(piece.colors is not None for piece in every)
    positions: list[F64] = []
    corners: list[NDArray[Any]] = []
    normals: list[F32] = []
    uvs: list[list[F32]] = [[] for _ in range(n_uvs)]
    colors: list[F32] = []
    n_vertices = n_lacking = 0
    for pieces in gathered.pieces:
        together = np.concatenate([piece.positions for piece in pieces])
        ids, firsts = weld_positions(together)
        positions.append(together[firsts])
        offset = 0
        for piece in pieces:
            flat = piece.triangles.reshape(-1)
            corners.append(ids[flat + offset] + n_vertices)
            offset += len(piece.positions)
            if has_normals:
                normals.append(_corner_values(piece.normals, flat, 3, 0.0))
            if has_colors:
                colors.append(_corner_values(piece.colors, flat, 4, 1.0))
            for channel in range(n_uvs):
                uv = piece.uvs[channel] if channel < len(piece.uvs) else None
                uvs[channel].append(_corner_values(uv, flat, 2, 0.0))
            n_lacking += len(flat) if n_uvs and not piece.uvs else 0
        n_vertices += len(firsts)
    if n_lacking:
        findings.append(
            Finding(
                "uvs-partly-missing", Severity.WARNING, f"{n_lacking} corners have no UV; they lie at 0, 0", n_lacking
            )
        )
    sizes = [len(piece.triangles) for piece in every]
    owners = [part for part, pieces in enumerate(gathered.pieces) for _ in pieces]
    flat_corners = np.concatenate(corners) if corners else np.zeros(0, np.int32)
    return make_mesh(
        np.concatenate(positions) if positions else np.zeros((0, 3)),
        np.arange(0, len(flat_corners) + 1, 3),
        flat_corners,
        face_material=np.repeat([material_index[piece.material] for piece in every], sizes),
        face_part=np.repeat(owners, sizes),
        normals=_unit32(np.concatenate(normals)) if has_normals else None,
        uvs=tuple(np.concatenate(channel) for channel in uvs),
        colors=np.concatenate(colors) if has_colors else None,
    )


def _corner_values(values: F32 | None, flat: NDArray[Any], width: int, fill: float) -> F32:
    return np.full((len(flat), width), fill, np.float32) if values is None else values[flat]


def _unit32(vectors: F32) -> F32:
    """Unit length in float32; zero and non-finite vectors become zero, which means "missing"."""
    with np.errstate(all="ignore"):
        squared = np.einsum("ij,ij->i", vectors, vectors)
        good = np.isfinite(squared) & (squared > 0)
        length = np.sqrt(np.where(good, squared, 1.0)).astype(np.float32)
        # A vector that is unit to the last few digits stays as it came, so that writing it again gives the same bytes.
        length = np.where(np.abs(length - 1.0) < 1e-6, np.float32(1.0), length)
        return np.where(good[:, None], vectors / length[:, None], np.float32(0.0))
