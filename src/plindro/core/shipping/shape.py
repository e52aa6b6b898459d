"""What a manifest tells of a prop's shape, by which a reader knows whether it has taken the file as it was meant."""

from plindro.core.names import clean_name
from plindro.core.prop import Level, Prop
from plindro.core.rehearsal import Expected


def shape_of(prop: Prop) -> Expected:
    """The bounds of LOD0 in metres, Y up, and the triangles of each level with its parts, where they are kept apart."""
    mesh = prop.levels[0].mesh
    places = mesh.positions[mesh.corner_vertex].astype(float)
    low, high = places.min(axis=0).tolist(), places.max(axis=0).tolist()
    return Expected(
        size=(high[0] - low[0], high[1] - low[1], high[2] - low[2]),
        lowest=(low[0], low[1], low[2]),
        triangles=tuple(level.mesh.n_triangles for level in prop.levels),
        parts=tuple(_parts(prop, level) for level in prop.levels),
    )


def _parts(prop: Prop, level: Level) -> tuple[str, ...]:
    if not prop.keeps_parts or len(prop.parts) < _SEVERAL:
        return ()
    apart = level.mesh.faces_by_part(len(prop.parts))
    return tuple(clean_name(part.name) for part, faces in zip(prop.parts, apart, strict=True) if len(faces))


_SEVERAL = 2
