"""Faces flipped by hand: found by their place and side, each turned once however many marks reach it."""

import numpy as np

from plindro.core.findings import Finding, Severity, grouped
from plindro.core.marks import find_faces, share_patch, to_mesh, unfitting
from plindro.core.mesh.mesh import Mesh
from plindro.core.mesh.surgery import turn_faces
from plindro.core.mesh.topology import build_topology
from plindro.core.prop import Prop
from plindro.core.report import Report
from plindro.core.shading.normals import fold_angles
from plindro.core.stations.cleanup.settings import Turned


def turn_by_hand(prop: Prop, marks: tuple[Turned, ...], report: Report) -> Mesh:
    """The mesh with the marked faces turned; a face that two marks reach is turned twice, as it would be by hand."""
    mesh = prop.mesh
    points = to_mesh(prop, [mark.point for mark in marks])
    facings = to_mesh(prop, [mark.facing for mark in marks], directions=True)
    seeds = find_faces(mesh, points, facings)
    # A mark made on what another mark had turned saw the other side.
    seeds = np.where(seeds < 0, find_faces(mesh, points, -facings), seeds)
    topology = build_topology(mesh)
    angles = fold_angles(mesh, topology)
    turned = np.zeros(mesh.n_faces, bool)
    for mark, seed in zip(marks, seeds.tolist(), strict=True):
        if seed < 0:
            continue
        if mark.scope == "face":
            turned[seed] ^= True
        else:
            patch = share_patch(mesh, topology, angles, "shell" if mark.scope == "shell" else "angle", mark.angle)
            turned ^= patch == patch[seed]
    if (seeds < 0).any():
        report.find(unfitting("flipped face", points[seeds < 0]))
    n = int(turned.sum())
    if n:
        text = f"{grouped(n)} {'face was' if n == 1 else 'faces were'} flipped by hand"
        report.find(Finding("faces-flipped-by-hand", Severity.INFO, text, n))
    return turn_faces(mesh, turned) if n else mesh
