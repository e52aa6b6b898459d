"""The station: every image in use told by kind and judged; GPU textures where the line or the destination asks."""

from collections.abc import Iterator
from dataclasses import replace
from pathlib import PurePosixPath

from plindro.core.destinations import Destination
from plindro.core.errors import UnreadableFile
from plindro.core.findings import Finding, Severity, counted
from plindro.core.mesh.mesh import F32
from plindro.core.names import clean_name
from plindro.core.prop import GpuFile, Prop
from plindro.core.report import Report
from plindro.core.scene import Image
from plindro.core.sheets.pixels import encode
from plindro.core.station import Context
from plindro.core.stations.textures.additions import height_made_normal, is_flat_grey, normals_beside, with_occlusion
from plindro.core.stations.textures.baking import with_all_baked
from plindro.core.stations.textures.editing import edited, with_green_over
from plindro.core.stations.textures.facts import MadeFacts, TextureFacts, TexturesFacts, made_facts
from plindro.core.stations.textures.packed import pack_materials
from plindro.core.stations.textures.settings import HeightRules, MapChoice, TexturesSettings
from plindro.core.stations.textures.trials import trials_of
from plindro.core.stations.textures.uses import Use, uses_of
from plindro.core.textures.codec_choice import alpha_of
from plindro.core.textures.faults import content_faults, size_faults
from plindro.core.textures.kept import ReadyTexture, ready_texture, texture_key
from plindro.core.textures.kinds import Guess, kind_of
from plindro.core.textures.mips import mip_sizes
from plindro.core.textures.pixels import Pixels, encode_deep, read_pixels, to_bytes
from plindro.core.textures.rules import Container, TextureSettings

_MIB = 1 << 20
_DONE = {"flip_green": False, "drop_alpha": False, "height": None}


def run(prop: Prop, settings: TexturesSettings, report: Report, context: Context) -> Prop:
    """The prop with its images as they were decided, and its GPU textures where any are asked for."""
    if settings.bake:
        prop = with_all_baked(prop, report)
    prop = with_occlusion(prop, settings)
    uses, destination = uses_of(prop), context.destination
    container = container_of(settings, destination)
    images, files, rows = list(prop.images), list[GpuFile](), list[TextureFacts]()
    findings: list[Finding] = []
    for number, use in enumerate(uses):
        span = report.span(number / len(uses), (number + 1) / len(uses))
        image = prop.images[use.image]
        span.step(0.0, f"looking at {image.name}")
        try:
            pixels = read_pixels(image.data, image.name)
        except UnreadableFile as error:
            report.find(Finding("unreadable-texture", Severity.WARNING, str(error)))
            continue
        one = _Worked(use, image, pixels, settings, destination)
        findings += one.findings()
        if one.is_changed:
            images[use.image] = one.changed_image()
        if container is not None:
            beside = next(normals_beside(prop, use.image), None) if settings.roughen else None
            ready = one.ready(container, context, span, beside)
            file = GpuFile(use.image, texture_path(one, container, destination), container, ready.data)
            files.append(file)
            rows.append(one.facts(made_facts(file.path, ready)))
        else:
            rows.append(one.facts(None))
    for finding in _by_fault(findings):
        report.find(finding)
    packed = pack_materials(prop, tuple(images), settings, container, context, report)
    files += [file for file, _ in packed]
    rows += [row for _, row in packed]
    facts = _totals(rows, destination)
    report.state(facts)
    if facts.budget_bytes is not None and facts.gpu_bytes > facts.budget_bytes:
        text = (
            f"{facts.gpu_bytes / _MIB:.3g} MiB of textures with mips, over the destination's "
            f"{facts.budget_bytes / _MIB:.3g} MiB"
        )
        report.find(Finding("texture-memory-over-budget", Severity.WARNING, text))
    report.step(1.0, "textures")
    return replace(prop, images=tuple(images), gpu_files=tuple(files))


def _by_fault(findings: list[Finding]) -> Iterator[Finding]:
    """One finding a fault, however many images have it."""
    codes = dict.fromkeys(finding.code for finding in findings)
    for code in codes:
        first, *others = [finding for finding in findings if finding.code == code]
        more = f"; so {'is' if len(others) == 1 else 'are'} {counted(len(others), 'other')}" if others else ""
        yield replace(first, message=first.message + more, count=1 + len(others))


def finish(prop: Prop, settings: TexturesSettings, report: Report, context: Context) -> Prop:
    """The prop with GPU textures of the smaller images that its far levels have got since."""
    container = container_of(settings, context.destination)
    if container is None:
        return prop
    there = {file.image for file in prop.gpu_files}
    files = list(prop.gpu_files)
    for use in uses_of(prop):
        image = prop.images[use.image]
        if use.image not in there and image.smaller_of:
            pixels = read_pixels(image.data, image.name)
            one = _Worked(use, image, pixels, settings, context.destination)
            ready = one.ready(container, context, report)
            files.append(GpuFile(use.image, texture_path(one, container, context.destination), container, ready.data))
    return replace(prop, gpu_files=tuple(files))


def inputs(settings: TexturesSettings, context: Context) -> str:
    """All settings, and what the destination asks of textures."""
    return settings.model_dump_json() + context.destination.textures.model_dump_json()


def container_of(settings: TexturesSettings, destination: Destination) -> Container | None:
    """The container of GPU textures; None where images ship as they came."""
    wanted = destination.textures.output if settings.output == "destination" else settings.output
    return None if wanted == "source" else wanted


class _Worked:
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
        self._is_height = height is None and self.guess == Guess("normal", "slot") and is_flat_grey(pixels.values)
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

    def ready(
        self, container: Container, context: Context, report: Report, normals: Image | None = None
    ) -> ReadyTexture:
        """The GPU texture, made or kept; where it is roughened, ``normals`` are those that lie over it."""
        rules, values = self.rules(container), self.values
        turns = self.guess.kind == "normal" and self._asked.green_down
        edits = (self.choice.model_dump_json() if self.choice else "") + ("green down" if turns else "")
        key = texture_key(self.image.digest, edits + (normals.digest if normals else ""), rules)
        beside = read_pixels(normals.data, normals.name).values if normals else None
        wanted = with_green_over(values) if turns else values
        return ready_texture(key, wanted, rules, context.textures, report, beside)

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


def texture_path(one: _Worked, container: Container, destination: Destination) -> str:
    """Where a texture lies below the folder that is shipped to; its digest keeps those of one name apart."""
    asked = destination.textures
    rules = one.rules(container)
    digest = texture_key(one.image.digest, one.choice.model_dump_json() if one.choice else "", rules)
    stem = asked.template.format(
        image=clean_name(PurePosixPath(one.image.name).stem), kind=one.guess.kind, digest=digest[:8]
    )
    return f"{asked.folder}/{stem}.{container}" if asked.folder else f"{stem}.{container}"


def _totals(rows: list[TextureFacts], destination: Destination) -> TexturesFacts:
    budget = destination.textures.budget_mib
    return TexturesFacts(
        textures=rows,
        gpu_bytes=sum(row.made.gpu_bytes if row.made else row.gpu_bytes for row in rows),
        source_gpu_bytes=sum(row.gpu_bytes for row in rows),
        budget_bytes=None if budget is None else int(budget * _MIB),
    )
