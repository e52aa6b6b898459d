"""The collapse sequence of a prop, as the station's settings have it."""

import numpy as np

from plindro.core.findings import Finding, Severity
from plindro.core.marks import mark_tolerance, share_patch, to_mesh, unfitting
from plindro.core.mesh.mesh import Mask
from plindro.core.mesh.topology import build_topology
from plindro.core.prop import Prop
from plindro.core.reduction import Plane, Sequence, collapse, curvature, find_mirror, mirrored_sequence, outline
from plindro.core.reduction.reduce import Options
from plindro.core.report import Report
from plindro.core.shading.normals import fold_angles
from plindro.core.spatial.nearest import triangles_at
from plindro.core.stations.levels.settings import LevelsSettings

_SAME_WAY = 0.5
"""Cosine within which a protected face must still look the way it did."""


def make_sequence(
    prop: Prop, settings: LevelsSettings, report: Report, *, hold_hard_edges: bool, locked: Mask, plane: Plane | None
) -> Sequence:
    """The whole way down from LOD0, on which ``locked`` vertices stay, symmetric across ``plane`` if there is one."""
    mesh = prop.mesh
    options: Options = {
        "placement": settings.placement,
        "hold_hard_edges": hold_hard_edges,
        "lock_borders": settings.lock_borders,
        "keep_shells": settings.keep_shells,
        "keep_holes": settings.keep_holes,
        "on_step": lambda done: report.step(0.6 * done, "building levels"),
    }
    weight = np.ones(mesh.n_vertices)
    if settings.silhouette_weight > 0:
        report.step(0.0, "finding the silhouette")
        weight += settings.silhouette_weight * outline(mesh)
    if settings.curvature_weight > 0:
        weight += settings.curvature_weight * curvature(mesh)
    if settings.silhouette_weight > 0 or settings.curvature_weight > 0:
        options["weight"] = weight
    if locked.any():
        options["locked"] = locked
    if plane is not None:
        try:
            return mirrored_sequence(mesh, plane, options)
        except ValueError as error:
            text = f"the levels are reduced without a mirror: {error}"
            report.find(Finding("mirror-not-found", Severity.WARNING, text))
    return collapse(mesh, **options)


def mirror_of(prop: Prop, settings: LevelsSettings, report: Report) -> Plane | None:
    """The plane across which levels are symmetric; says where there is none."""
    if settings.mirror == "off":
        return None
    side = 1.0 if settings.mirror_from == "positive" else -1.0
    if settings.mirror != "found":
        normal = np.zeros(3)
        normal["xyz".index(settings.mirror)] = side
        if not (prop.mesh.positions @ normal > 0).any():
            text = (
                f"nothing of the prop lies on the {settings.mirror_from} side of {settings.mirror}, the model of the "
                "mirror; its levels are reduced without one; take the other side or move the pivot"
            )
            report.find(Finding("mirror-not-found", Severity.WARNING, text))
            return None
        return Plane(normal, 0.0)
    plane = find_mirror(prop.mesh)
    if plane is None:
        text = "no plane was found across which the prop is symmetric; its levels are reduced without a mirror"
        report.find(Finding("mirror-not-found", Severity.WARNING, text))
        return None
    return plane if side > 0 else Plane(-plane.normal, -plane.offset)


def protected_vertices(prop: Prop, settings: LevelsSettings, report: Report) -> Mask:
    """(V,) the vertices of protected parts and patches; what no longer fits is said."""
    mesh = prop.mesh
    faces = np.zeros(mesh.n_faces, bool)
    for path in settings.protected_parts:
        numbers = [i for i, part in enumerate(prop.parts) if part.path == path or part.path.startswith(f"{path}/")]
        faces |= np.isin(mesh.face_part, numbers)
        if not numbers:
            text = f"the part '{path}', which is protected, is not in the prop any more"
            report.find(Finding("part-unknown", Severity.WARNING, text, part=path))
    if settings.protected:
        topology = build_topology(mesh)
        angles = fold_angles(mesh, topology)
        points = to_mesh(prop, [patch.point for patch in settings.protected])
        facings = to_mesh(prop, [patch.facing for patch in settings.protected], directions=True)
        seeds = triangles_at(mesh.positions, mesh.triangles(), points, facings, _SAME_WAY)
        there = mesh.positions[mesh.triangles()[np.maximum(seeds, 0)]]
        # The place itself was clicked: it lies in its triangle's box, or nothing is there any more.
        off = np.maximum(there.min(axis=1) - points, points - there.max(axis=1)).max(axis=1)
        seeds = np.where(off > mark_tolerance(mesh), -1, seeds)
        if (seeds < 0).any():
            report.find(unfitting("protected patch", points[seeds < 0]))
        for patch, seed in zip(settings.protected, seeds.tolist(), strict=True):
            if seed >= 0:
                grown = share_patch(mesh, topology, angles, patch.by, patch.angle)
                faces |= grown == grown[seed]
    locked = np.zeros(mesh.n_vertices, bool)
    locked[mesh.corner_vertex.reshape(-1, 3)[faces]] = True
    return locked
