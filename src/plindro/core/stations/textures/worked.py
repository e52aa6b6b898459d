"""One image with what was decided about it: its kind, its pixels, its faults, and its GPU texture."""

from collections.abc import Iterator
from pathlib import PurePosixPath

from plindro.core.destinations import Destination
from plindro.core.findings import Finding
from plindro.core.mesh.mesh import F32
from plindro.core.names import clean_name
from plindro.core.prop import GpuFile
from plindro.core.report import Report
from plindro.core.scene import Image
from plindro.core.sheets.pixels import encode
from plindro.core.station import Context
from plindro.core.stations.textures.additions import height_made_normal
from plindro.core.stations.textures.editing import edited, with_green_over
from plindro.core.stations.textures.facts import MadeFacts, TextureFacts
from plindro.core.stations.textures.settings import HeightRules, MapChoice, TexturesSettings
from plindro.core.stations.textures.trials import trials_of
from plindro.core.stations.textures.uses import Use
from plindro.core.textures.codec_choice import alpha_of
from plindro.core.textures.faults import content_faults, size_faults
from plindro.core.textures.kept import ReadyTexture, ready_texture, texture_key
from plindro.core.textures.kinds import Guess, is_grey, kind_of
from plindro.core.textures.mips import mip_sizes
from plindro.core.textures.pixels import Pixels, encode_deep, read_pixels, to_bytes
from plindro.core.textures.rules import Container, TextureSettings

_DONE = {"flip_green": False, "drop_alpha": False, "height": None}
_DIGITS = 8
"""Of a digest in a file's name."""


class Worked:
    """One image with what was decided about it."""

    def __init__(
        self, use: Use, image: Image, pixels: Pixels, settings: TexturesSettings, destination: Destination
    ) -> None:
        self.use, self.image, self._pixels = use, image, pixels
        self._settings, self._asked = settings, destination.textures
        # A smaller one for far levels was made of what was decided about the whole already.
        whole = settings.choice(image.smaller_of) if image.smaller_of else None
        decided = whole.model_copy(update=_DONE) if whole else settings.choice(image.name)
        self.choice: MapChoice | None = decided
        chosen = self.choice.kind if self.choice else None
        self.guess = Guess(chosen, "choice") if chosen else kind_of(image.name, pixels.values, frozenset(use.slots))
        height = self.choice.height if self.choice else None
        self._is_height = height is None and self.guess == Guess("normal", "slot") and is_grey(pixels.values[::4, ::4])
        if self._is_height:
            height = HeightRules()
        self._edited = edited(pixels.values, self.choice, height, use.border)
        self.is_changed = self._edited.is_changed

    @property
    def values(self) -> F32:
        return self._edited.values

    def findings(self) -> Iterator[Finding]:
        """What is wrong with the image as it was decided."""
        height, width = self.values.shape[:2]
        if self._is_height:
            yield height_made_normal(self.image.name)
        if self._settings.sizes == "keep" and self._asked.sizes == "keep":
            yield from size_faults(self.image.name, width, height)
        yield from content_faults(self.image.name, self.guess.kind, self.values, uses_alpha=self.use.uses_alpha)

    def changed_image(self) -> Image:
        """The image as it was decided, as PNG; deep where it came so."""
        height, width = self.values.shape[:2]
        if self._pixels.bits == 8:
            return encode(f"{PurePosixPath(self.image.name).stem}.png", to_bytes(self.values))
        name, data = encode_deep(self.values, self.image.name)
        return Image(name, data, "image/png", width, height)

    def rules(self, container: Container) -> TextureSettings:
        settings, asked, kind = self._settings, self._asked, self.guess.kind
        return TextureSettings(
            kind,
            (self.choice.codec if self.choice else None) or asked.codecs.get(kind),
            settings.quality,
            settings.perceptual,
            settings.mips,
            self.use.border,
            "power-of-two" if "power-of-two" in (settings.sizes, asked.sizes) else "keep",
            min(settings.largest, asked.largest),
            self.use.cutoff,
            settings.sharpening,
            container,
            asked.zstd,
        )

    def key(self, container: Container, normals: Image | None) -> str:
        """What the GPU texture depends on; ``normals`` are those by which it is roughened."""
        edits = [
            self.choice.model_dump_json() if self.choice else "",
            f"{self._turns}",
            normals.digest if normals else "",
        ]
        return texture_key(self.image.digest, " ".join(edits), self.rules(container))

    @property
    def _turns(self) -> bool:
        return self.guess.kind == "normal" and self._asked.green_down

    def ready(self, container: Container, context: Context, report: Report, normals: Image | None) -> ReadyTexture:
        """The GPU texture, made or kept."""
        beside = read_pixels(normals.data, normals.name).values if normals else None
        wanted = with_green_over(self.values) if self._turns else self.values
        key, rules = self.key(container, normals), self.rules(container)
        return ready_texture(key, wanted, rules, context.textures, report, beside)

    def path(self, container: Container, normals: Image | None) -> str:
        """Where the texture lies below the folder that is shipped to; its digest keeps those of one name apart."""
        name = clean_name(PurePosixPath(self.image.name).stem)
        digest = self.key(container, normals)[:_DIGITS]
        stem = self._asked.template.format(image=name, kind=self.guess.kind, digest=digest)
        return f"{self._asked.folder}/{stem}.{container}" if self._asked.folder else f"{stem}.{container}"

    def file(
        self, container: Container, context: Context, report: Report, normals: Image | None = None
    ) -> tuple[GpuFile, ReadyTexture]:
        """The GPU texture as it ships, and what is known of it."""
        ready = self.ready(container, context, report, normals)
        return GpuFile(self.use.image, self.path(container, normals), container, ready.data), ready

    def facts(self, made: MadeFacts | None) -> TextureFacts:
        width, height = self._pixels.width, self._pixels.height
        return TextureFacts(
            image=self.image.name,
            kind=self.guess.kind,
            by=self.guess.by,
            slots=sorted(self.use.slots),
            materials=self.use.materials,
            width=width,
            height=height,
            channels=self._pixels.channels,
            bits=self._pixels.bits,
            alpha=alpha_of(self.values),
            trials=trials_of(self.values, self.guess.kind, self._settings),
            ships_as=f"{PurePosixPath(self.image.name).stem}.png" if self.is_changed else self.image.name,
            bytes=len(self.image.data),
            gpu_bytes=sum(w * h * 4 for w, h in mip_sizes(width, height)),
            made=made,
        )
