"""One image with what was decided about it: its kind, its pixels, its faults, and its GPU texture."""

from collections import OrderedDict
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from pathlib import PurePosixPath

from plindro.core.files.pixels import Pixels, encode_deep, read_pixels
from plindro.core.findings import Finding
from plindro.core.names import clean_name
from plindro.core.prop import GpuFile
from plindro.core.report import Report
from plindro.core.scene import Image
from plindro.core.station import Context
from plindro.core.stations.textures.additions import height_made_normal
from plindro.core.stations.textures.editing import Edited, edited, with_green_over
from plindro.core.stations.textures.facts import MadeFacts, TextureFacts, TrialFacts
from plindro.core.stations.textures.settings import HeightRules, MapChoice, TexturesSettings
from plindro.core.stations.textures.trials import trials_of
from plindro.core.stations.textures.uses import Use
from plindro.core.textures.codec_choice import Alpha, alpha_of
from plindro.core.textures.faults import content_faults, size_faults
from plindro.core.textures.images import encode
from plindro.core.textures.kept import ReadyTexture, ready_texture, texture_key
from plindro.core.textures.kinds import Guess, is_grey, kind_of
from plindro.core.textures.making import MadeTexture, fitted_size, make_texture
from plindro.core.textures.mips import MipRules, mip_sizes, resized
from plindro.core.textures.pixels import to_bytes
from plindro.core.textures.rules import Container, Sizes, TextureSettings

_DONE = {"flip_green": False, "drop_alpha": False, "one_channel": False, "unit": False, "height": None}


@dataclass(frozen=True, slots=True)
class _Looked:
    """What looking at an image's pixels told."""

    guess: Guess
    width: int
    height: int
    channels: int
    bits: int
    alpha: Alpha
    trials: tuple[TrialFacts, ...]
    findings: tuple[Finding, ...]
    is_changed: bool


_MOST = 2048
_looked: OrderedDict[tuple[object, ...], _Looked] = OrderedDict()
"""What is known of images that this process has looked at: a prop is built again whenever something is decided."""


class Worked:
    """One image with what was decided about it. Its pixels are read only where something has to be made of them."""

    def __init__(self, use: Use, image: Image, settings: TexturesSettings, context: Context) -> None:
        self.use, self.image = use, image
        self._settings, self._asked, self._tries = settings, context.destination.textures, context.tries_codecs
        # A smaller one for far levels was made of what was decided about the whole already.
        whole = settings.choice(image.smaller_of) if image.smaller_of else None
        self.choice: MapChoice | None = whole.model_copy(update=_DONE) if whole else settings.choice(image.name)

    @cached_property
    def _pixels(self) -> Pixels:
        return read_pixels(self.image.data, self.image.name)

    @cached_property
    def _guess(self) -> Guess:
        chosen = self.choice.kind if self.choice else None
        if chosen:
            return Guess(chosen, "choice")
        return kind_of(self.image.name, self._pixels.values, frozenset(self.use.slots))

    @cached_property
    def _is_height(self) -> bool:
        """Whether heights stand where normals do, and nothing was decided about that."""
        is_told = self.choice is not None and self.choice.height is not None
        return not is_told and self._guess == Guess("normal", "slot") and is_grey(self._pixels.values[::4, ::4])

    @cached_property
    def _edited(self) -> Edited:
        height = HeightRules() if self._is_height else self.choice.height if self.choice else None
        return edited(self._pixels.values, self.choice, height, self.use.border)

    @cached_property
    def looked(self) -> _Looked:
        """What is known of the image; raises ``UnreadableFile`` where its pixels cannot be read."""
        key = (
            self.image.digest,
            self.image.name,
            frozenset(self.use.slots),
            self.use.border,
            self.use.uses_alpha,
            self.choice.model_dump_json() if self.choice else "",
            self._settings.quality,
            self._sizes,
            self._largest,
            self._tries,
        )
        known = _looked.get(key)
        if known is None:
            known = _looked[key] = self._look()
            while len(_looked) > _MOST:
                _looked.popitem(last=False)
        return known

    @property
    def _sizes(self) -> Sizes:
        return "power-of-two" if "power-of-two" in (self._settings.sizes, self._asked.sizes) else "keep"

    @property
    def _largest(self) -> int:
        return min(self._settings.largest, self._asked.largest)

    def _look(self) -> _Looked:
        pixels, values, kind = self._pixels, self._edited.values, self._guess.kind
        return _Looked(
            self._guess,
            pixels.width,
            pixels.height,
            pixels.channels,
            pixels.bits,
            alpha_of(values),
            tuple(trials_of(values, kind, self._settings)) if self._tries else (),
            tuple(self._faults()),
            self._edited.is_changed or self._size != (pixels.width, pixels.height),
        )

    def _faults(self) -> Iterator[Finding]:
        """What is wrong with the image as it was decided."""
        values = self._edited.values
        if self._is_height:
            yield height_made_normal(self.image.name)
        yield from size_faults(self.image.name, *self._size)
        yield from content_faults(self.image.name, self._guess.kind, values, uses_alpha=self.use.uses_alpha)

    @property
    def _size(self) -> tuple[int, int]:
        return fitted_size(self._pixels.width, self._pixels.height, self._sizes, self._largest)

    def changed_image(self) -> Image:
        """The image as it was decided, as PNG; deep where it came so."""
        values = self._edited.values
        if self._size != (values.shape[1], values.shape[0]):
            rules = MipRules(border=self.use.border, cutoff=self.use.cutoff)
            values = resized(values, self._guess.kind, *self._size, rules)
        if self._pixels.bits == 8:
            return encode(f"{PurePosixPath(self.image.name).stem}.png", to_bytes(values))
        name, data = encode_deep(values, self.image.name)
        return Image(name, data, "image/png", values.shape[1], values.shape[0])

    def rules(self, container: Container) -> TextureSettings:
        settings, asked, kind = self._settings, self._asked, self.looked.guess.kind
        return TextureSettings(
            kind,
            (self.choice.codec if self.choice else None) or settings.codecs.get(kind) or asked.codecs.get(kind),
            settings.quality,
            settings.perceptual,
            settings.mips,
            self.use.border,
            self._sizes,
            self._largest,
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
        return self.looked.guess.kind == "normal" and self._asked.green_down

    def ready(self, container: Container, context: Context, report: Report, normals: Image | None) -> ReadyTexture:
        """The GPU texture, made or kept."""

        def make() -> MadeTexture:
            values = self._edited.values
            beside = read_pixels(normals.data, normals.name).values if normals else None
            return make_texture(
                with_green_over(values) if self._turns else values, self.rules(container), report, beside
            )

        return ready_texture(self.key(container, normals), context.textures, make)

    def path(self, container: Container, normals: Image | None) -> str:
        name = clean_name(PurePosixPath(self.image.name).stem)
        return self._asked.path(name, self.looked.guess.kind, self.key(container, normals), container)

    def file(
        self, container: Container, context: Context, report: Report, normals: Image | None = None
    ) -> tuple[GpuFile, ReadyTexture]:
        """The GPU texture as it ships, and what is known of it."""
        ready = self.ready(container, context, report, normals)
        return GpuFile(self.use.image, self.path(container, normals), container, ready.data), ready

    def facts(self, made: MadeFacts | None) -> TextureFacts:
        looked = self.looked
        return TextureFacts(
            image=self.image.name,
            digest=self.image.digest,
            kind=looked.guess.kind,
            by=looked.guess.by,
            slots=sorted(self.use.slots),
            materials=self.use.materials,
            width=looked.width,
            height=looked.height,
            channels=looked.channels,
            bits=looked.bits,
            alpha=looked.alpha,
            trials=list(looked.trials),
            faults=[finding.code for finding in looked.findings],
            ships_as=f"{PurePosixPath(self.image.name).stem}.png" if looked.is_changed else self.image.name,
            is_changed=looked.is_changed,
            bytes=len(self.image.data),
            gpu_bytes=sum(w * h * 4 for w, h in mip_sizes(looked.width, looked.height)),
            made=made,
        )
