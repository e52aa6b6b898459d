"""Every texture of the board's props in one list: each once, however many props use it."""

from collections.abc import Iterable, Iterator

from plindro.core.stations.textures import TEXTURES, TextureFacts
from plindro.web.yard.building import facts_of
from plindro.web.yard.models import Prop
from plindro.web.yard.schemas import TextureOfBoard, TexturesOut, TextureUser


def textures_of_board() -> TexturesOut:
    """The textures of all props that are built, the largest on the GPU first, with their totals."""
    props = Prop.objects.filter(is_removed=False, built__isnull=False).select_related("built").order_by("name", "pk")
    rows = sorted(_merged(_used(props)), key=lambda row: (-_size(row.texture), row.texture.image))
    return TexturesOut(
        textures=rows,
        gpu_bytes=sum(_size(row.texture) for row in rows),
        source_gpu_bytes=sum(row.texture.gpu_bytes for row in rows),
        bytes=sum(row.texture.made.bytes if row.texture.made else row.texture.bytes for row in rows),
    )


def _used(props: Iterable[Prop]) -> Iterator[tuple[TextureUser, TextureFacts]]:
    for prop in props:
        facts = facts_of(prop.built)
        found = facts.of(TEXTURES) if facts else None
        for texture in found.textures if found else ():
            yield TextureUser(id=prop.pk, name=prop.name), texture


def _merged(used: Iterable[tuple[TextureUser, TextureFacts]]) -> Iterable[TextureOfBoard]:
    """One row a texture: those are the same that ship as one file, or come with the same content."""
    rows: dict[str, TextureOfBoard] = {}
    for user, texture in used:
        key = texture.made.path if texture.made else texture.digest or f"{user.id} {texture.image}"
        row = rows.setdefault(key, TextureOfBoard(texture=texture, props=[]))
        if user not in row.props:
            row.props.append(user)
    return rows.values()


def _size(texture: TextureFacts) -> int:
    return texture.made.gpu_bytes if texture.made else texture.gpu_bytes
