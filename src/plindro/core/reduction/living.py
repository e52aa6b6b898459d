"""From when to when the nodes of a sequence have triangles: what an engine counts as vertices after each step."""

import numpy as np

from plindro.core.mesh.mesh import I32, I64, Mask
from plindro.core.numeric.kernels import kernel


@kernel
def _span(parent, left_at, triangle_node, starts_at, died_at, which, begins, ends):  # type: ignore[no-untyped-def]
    """The steps from which to before which each node has one of the triangles ``which``; none where it never does."""
    for i in range(len(parent)):
        begins[i], ends[i] = left_at[i], 0
    for j in range(len(which)):
        t = which[j]
        for k in range(3):
            node = triangle_node[t, k]
            begins[node] = min(begins[node], starts_at[t])
            # What is there at the end has triangles at the last step too.
            ends[node] = max(ends[node], died_at[t] + 1)
    # A parent comes before its children, and has from then on what they had.
    for i in range(len(parent) - 1, -1, -1):
        if ends[i] <= left_at[i]:
            continue
        if parent[i] >= 0:
            begins[parent[i]] = min(begins[parent[i]], max(begins[i], left_at[i]))
            ends[parent[i]] = max(ends[parent[i]], ends[i])
        ends[i] = left_at[i]


def steps_of_going(nodes_at: I32, n_nodes: int) -> I64:
    """(N,) the step from which each node is gone; past the last where it stays.

    The node counts ``nodes_at`` (S + 1,) fall; a node is gone from the first step that leaves no more than its number.
    """
    steps: I64 = np.searchsorted(-nodes_at, -np.arange(n_nodes), side="left")
    return steps


def count_living(
    parent: I32,
    nodes_at: I32,
    triangle_node: I32,
    starts_at: I32,
    died_at: I32,
    material: I32,
    counted: Mask | None = None,
) -> I32:
    """(S + 1,) how many nodes have triangles after each step, each once for each material of those.

    As ``Sequence`` has the arrays; ``material`` (T,) of each triangle, ``counted`` (N,) the nodes that count, else all.
    """
    n_nodes, n_steps = len(parent), len(nodes_at) - 1
    left_at = steps_of_going(nodes_at, n_nodes)
    change = np.zeros(n_steps + 2, np.int64)
    begins, ends = np.empty((2, n_nodes), np.int64)
    for one in np.unique(material):
        _span(parent, left_at, triangle_node, starts_at, died_at, np.flatnonzero(material == one), begins, ends)
        lives = ends > begins if counted is None else (ends > begins) & counted
        change += np.bincount(begins[lives], minlength=n_steps + 2)
        change -= np.bincount(ends[lives], minlength=n_steps + 2)
    return np.cumsum(change)[: n_steps + 1].astype(np.int32)
