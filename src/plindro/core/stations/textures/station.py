"""The station: every image in use told by kind and judged; GPU textures where the line or the destination asks."""

from collections.abc import Iterator
from dataclasses import replace

from plindro.core.destinations import Destination
from plindro.core.errors import UnreadableFile
from plindro.core.findings import Finding, Severity, counted
from plindro.core.prop import GpuFile, Prop
from plindro.core.report import Report
from plindro.core.station import Context
from plindro.core.stations.textures.additions import normals_beside, with_occlusion
from plindro.core.stations.textures.baking import with_all_baked
from plindro.core.stations.textures.facts import TextureFacts, TexturesFacts, made_facts
from plindro.core.stations.textures.packed import pack_materials
from plindro.core.stations.textures.plain_images import with_images_asked
from plindro.core.stations.textures.settings import TexturesSettings
from plindro.core.stations.textures.uses import uses_of
from plindro.core.stations.textures.worked import Worked
from plindro.core.textures.rules import Container

_MIB = 1 << 20


def run(prop: Prop, settings: TexturesSettings, report: Report, context: Context) -> Prop:
    """The prop with its images as they were decided, and its GPU textures where any are asked for."""
    if settings.bake:
        prop = with_all_baked(prop, report)
    prop = with_occlusion(prop, settings)
    uses, destination = uses_of(prop), context.destination
    container = container_of(settings, destination)
    images, files, rows, findings = list(prop.images), list[GpuFile](), list[TextureFacts](), list[Finding]()
    for number, use in enumerate(uses):
        span = report.span(number / len(uses), (number + 1) / len(uses))
        image = prop.images[use.image]
        span.step(0.0, f"looking at {image.name}")
        one = Worked(use, image, settings, context)
        try:
            looked = one.looked
        except UnreadableFile as error:
            report.find(Finding("unreadable-texture", Severity.WARNING, str(error)))
            continue
        findings += looked.findings
        if looked.is_changed:
            images[use.image] = one.changed_image()
        if container is not None:
            beside = next(normals_beside(prop, use.image), None) if settings.roughen else None
            file, ready = one.file(container, context, span, beside)
            files.append(file)
            rows.append(one.facts(made_facts(file.path, ready)))
        else:
            rows.append(one.facts(None))
    for finding in _by_fault(findings):
        report.find(finding)
    packed = pack_materials(prop, tuple(images), settings, container, context, report)
    files += [file for file, _ in packed]
    rows += [row for _, row in packed]
    _tell_totals(rows, destination, report)
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
    """The prop with GPU textures of the smaller images that its far levels have got since, and with its images in the
    format and place that the destination asks for."""
    container = container_of(settings, context.destination)
    if container is None:
        return with_images_asked(prop, context)
    there = {file.image for file in prop.gpu_files}
    files = list(prop.gpu_files)
    for use in uses_of(prop):
        image = prop.images[use.image]
        if use.image not in there and image.smaller_of:
            one = Worked(use, image, settings, context)
            files.append(one.file(container, context, report)[0])
    return with_images_asked(replace(prop, gpu_files=tuple(files)), context)


def inputs(settings: TexturesSettings, context: Context) -> str:
    """All settings, what the destination asks of textures, and whether codecs are tried."""
    return f"{settings.model_dump_json()}{context.destination.textures.model_dump_json()}{context.tries_codecs}"


def container_of(settings: TexturesSettings, destination: Destination) -> Container | None:
    """The container of GPU textures; None where images ship as they came."""
    wanted = destination.textures.output if settings.output == "destination" else settings.output
    return None if wanted == "source" else wanted


def _tell_totals(rows: list[TextureFacts], destination: Destination, report: Report) -> None:
    """All textures together, beside what the destination allows."""
    most = destination.textures.budget_mib
    budget = None if most is None else int(most * _MIB)
    size = sum(row.made.gpu_bytes if row.made else row.gpu_bytes for row in rows)
    before = sum(row.gpu_bytes for row in rows)
    report.state(TexturesFacts(textures=rows, gpu_bytes=size, source_gpu_bytes=before, budget_bytes=budget))
    if budget is not None and size > budget:
        over = f"{size / _MIB:.3g} MiB of textures with mips, over the destination's {budget / _MIB:.3g} MiB"
        report.find(Finding("texture-memory-over-budget", Severity.WARNING, over))
