"""Every texture of the board's props in one list: each once, however many props use it."""

from collections.abc import Iterable, Iterator
from contextlib import suppress

from pydantic import ValidationError

from plindro.core.stations.textures import TEXTURES, TextureFacts
from plindro.web.yard.models import Prop
from plindro.web.yard.schemas import TextureOfBoard, TexturesOut, TextureUser


def textures_of_board() -> TexturesOut:
    """The textures of all props that are built, the largest on the GPU first, with their totals."""
    rows = sorted(_merged(_used()), key=lambda row: (-_size(row.texture), row.texture.image))
    return TexturesOut(
        textures=rows,
        gpu_bytes=sum(_size(row.texture) for row in rows),
        source_gpu_bytes=sum(row.texture.gpu_bytes for row in rows),
        bytes=sum(row.texture.made.bytes if row.texture.made else row.texture.bytes for row in rows),
    )


def _used() -> Iterator[tuple[TextureUser, TextureFacts]]:
    """Each prop with each of its textures, by the props' names. Only these facts are read: the others are long."""
    props = Prop.objects.filter(is_removed=False, built__isnull=False)
    for pk, name, found in props.values_list("pk", "name", f"built__facts__{TEXTURES.name}__textures"):
        user = TextureUser(id=pk, name=name)
        for texture in found or ():
            # What an earlier version told may not be told so any more; the prop is about to be built again.
            with suppress(ValidationError):
                yield user, TextureFacts.model_validate(texture)


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
