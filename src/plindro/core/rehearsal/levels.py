"""The chain itself: names, their order, falling counts, parts that are missing."""

from collections.abc import Iterator
from itertools import pairwise
from pathlib import PurePosixPath

from plindro.core.destinations import Destination
from plindro.core.findings import Finding, Severity, grouped
from plindro.core.rehearsal.chain import Chain, ChainLevel, likely_name, owner_of_file
from plindro.core.rehearsal.expected import Expected


def check_chain(chain: Chain, path: str, destination: Destination, expected: Expected) -> Iterator[Finding]:
    """Findings about what an engine takes for the levels of a prop."""
    if chain.n_roots != 1:
        yield _stop("several-roots", f"{chain.n_roots} root nodes where one is expected", chain.n_roots)
    if not chain.levels:
        yield _stop("levels-missing", "no mesh node lies below the root; there is nothing to draw", 0)
        return
    if not _is_of(chain, path, destination):
        text = f"the root node is '{chain.prop}', and the file is named for '{owner_of_file(path, destination)}'"
        yield Finding("root-name-other", Severity.WARNING, f"{text}; engines go by either")
    yield from _check_names(chain, destination)
    yield from _check_numbers([level.number for level in chain.levels], len(chain.levels))
    counts = [sum(len(p.triangles) for p in level.primitives) for level in chain.levels]
    chained = [index for index, level in enumerate(chain.levels) if level.number is not None]
    for before, index in pairwise(chained):
        above, below = counts[before], counts[index]
        if below >= above:
            name = chain.levels[index].name
            text = f"{name} has {grouped(below)} triangles, the level above has {grouped(above)}; counts must fall"
            yield _stop("triangles-not-decreasing", text, level=index)
    if expected.triangles and counts != list(expected.triangles):
        told = ", ".join(map(str, expected.triangles))
        yield _stop("triangles-differ", f"its levels have {', '.join(map(str, counts))} triangles; {told} were written")
    yield from _check_parts(chain.levels, expected)


def _stop(code: str, message: str, count: int = 1, level: int | None = None) -> Finding:
    return Finding(code, Severity.STOP, message, count, level)


def _is_of(chain: Chain, path: str, destination: Destination) -> bool:
    """Whether the file bears the prop's name, but for what a format has to write otherwise."""

    def plain(name: str) -> str:
        return name.replace("-", "_").lstrip("_").lower()

    stem = destination.owner_of_stem(PurePosixPath(path).stem)
    return plain(chain.prop) in (plain(stem), plain(owner_of_file(path, destination)))


_SAID = 4
"""Names that a sentence lists."""


def _check_names(chain: Chain, destination: Destination) -> Iterator[Finding]:
    if len(chain.levels) > 1 and all(level.number is None for level in chain.levels):
        wanted, _ = likely_name(chain.levels[0].name, chain, destination)
        names = ", ".join(f"'{level.name}'" for level in chain.levels[:_SAID])
        more = f" and {len(chain.levels) - _SAID} more" if len(chain.levels) > _SAID else ""
        text = f"no mesh is named as a level ('{wanted}'): {names}{more}; all are drawn at any distance"
        yield _stop("level-name-wrong", text, len(chain.levels))
        return
    for index, level in enumerate(chain.levels):
        if level.number is not None:
            continue
        wanted, is_proxy = likely_name(level.name, chain, destination)
        if is_proxy:
            text = f"'{level.name}' is drawn as a level; as '{wanted}' it would be a collision proxy"
            yield _stop("proxy-name-wrong", text, level=index)
        else:
            text = f"'{level.name}' is not named as the destination expects ('{wanted}'); the chain is not recognised"
            yield _stop("level-name-wrong", text, level=index)


def _check_numbers(named: list[int | None], n_levels: int) -> Iterator[Finding]:
    numbers = [number for number in named if number is not None]
    if numbers != sorted(numbers):
        yield _stop("levels-out-of-order", f"the levels come in the order {numbers}")
    elif len(set(numbers)) < len(numbers):
        yield _stop("level-name-twice", f"a level number comes twice in {numbers}")
    elif len(numbers) == n_levels and numbers != list(range(len(numbers))):
        yield _stop("level-number-missing", f"the levels are numbered {numbers}; count from 0 without gaps")


def _check_parts(levels: list[ChainLevel], expected: Expected) -> Iterator[Finding]:
    """Parts that come back farther away, those that the manifest names and nobody has, and those that a level goes
    without."""
    parts = [{mesh.part for mesh in level.meshes} - {""} for level in levels]
    for index, (level, own) in enumerate(zip(levels, parts, strict=True)):
        farther = set().union(*parts[index + 1 :])
        back = sorted(part for part in farther if own and not _has(own, part))
        if back:
            text = f"{level.name} lacks the part {', '.join(back)}, which a level farther away has"
            yield _stop("part-missing", text, len(back), index)
        told = set(expected.parts[index]) if index < len(expected.parts) else set()
        gone = sorted(part for part in told if not _has(own, part))
        if gone:
            text = f"{level.name} lacks the part {', '.join(gone)}, which the manifest names"
            yield _stop("part-missing", text, len(gone), index)
        without = sorted(part for part in parts[0] if own and not _has(own, part) and part not in back)
        if without and not expected.parts:
            text = f"{level.name} goes without the part {', '.join(without)}"
            yield Finding("part-dropped", Severity.INFO, text, len(without), index)


def _has(parts: set[str], part: str) -> bool:
    """Whether a part is among these, whole or in pieces."""
    return any(one == part or one.startswith(f"{part}_") or part.startswith(f"{one}_") for one in parts)
