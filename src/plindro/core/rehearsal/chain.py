"""Which nodes an engine takes for the levels of a prop, their parts and its proxies, and what it cannot place."""

import difflib
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from pathlib import PurePosixPath

from plindro.core.destinations import ENDINGS, ONE_LEVEL, Destination
from plindro.core.rehearsal.found import Found, FoundNode, Primitive

_ONE_LEVEL = frozenset(ending for kind in ONE_LEVEL for ending in ENDINGS[kind])
_ALIKE = 0.6
"""Share of a name that two have in common where one is taken for a slip of the other."""


@dataclass(slots=True)
class ChainMesh:
    """A mesh of a level: its node's name, the part that it is where parts are kept apart, what is drawn at it."""

    name: str
    part: str
    primitives: list[Primitive]


@dataclass(slots=True)
class ChainLevel:
    """A level as it was recognised: its ``number`` by name, or None where no name says so."""

    name: str
    number: int | None
    is_placed: bool
    meshes: list[ChainMesh] = field(default_factory=list)

    @property
    def primitives(self) -> list[Primitive]:
        return [primitive for mesh in self.meshes for primitive in mesh.primitives]


@dataclass(slots=True)
class ChainProxy:
    """A collision proxy with the number in its name."""

    name: str
    number: int
    is_placed: bool
    primitives: list[Primitive]


@dataclass(slots=True)
class Chain:
    """A prop as an engine takes it together; ``n_roots`` are the file's."""

    prop: str
    n_roots: int
    levels: list[ChainLevel] = field(default_factory=list)
    proxies: list[ChainProxy] = field(default_factory=list)


def recognise(found: Found, path: str, destination: Destination) -> Chain:
    """Put the nodes of a file together by the names that a destination expects. Where no name says what a mesh is, it
    is taken for a level, as engines draw it."""
    if found.is_flat:
        owner = owner_of_file(path, destination)
        return _sorted_out(Chain(owner, 1), [(node, None) for node in found.roots], destination, is_flat=True)
    if not found.roots:
        return Chain("", 0)
    root = found.roots[0]
    chain = Chain(destination.owner_of(root.name), len(found.roots))
    return _sorted_out(
        chain, list(_candidates(chain.prop, root, destination)), destination, is_flat=found.up is not None
    )


def together(chains: Sequence[Chain]) -> Chain:
    """The chain of a prop; where its levels are files of their own, by the numbers in their names."""
    if len(chains) == 1:
        return chains[0]
    whole = Chain(chains[0].prop, 1)
    for chain in chains:
        whole.levels += chain.levels
        whole.proxies += chain.proxies
    whole.levels.sort(key=lambda level: (level.number is None, level.number or 0, level.name))
    whole.proxies.sort(key=lambda proxy: proxy.number)
    return whole


def is_one_level(path: str) -> bool:
    """Whether a file of this format holds one mesh alone."""
    return PurePosixPath(path).suffix.lower() in _ONE_LEVEL


def owner_of_file(path: str, destination: Destination) -> str:
    """The prop that a file is of by its name, where each level is one too."""
    stem = destination.owner_of_stem(PurePosixPath(path).stem)
    return (destination.owner_by_level(stem) or stem) if is_one_level(path) else stem


def _candidates(
    prop: str, root: FoundNode, destination: Destination
) -> Iterator[tuple[FoundNode, list[FoundNode] | None]]:
    """Nodes that are levels or proxies, each with the nodes of its meshes, or None where it holds them itself."""
    if destination.hierarchy == "nested":
        mine = [node for node in root.children if node.primitives and not _is_named(prop, node.name, destination)]
        yield root, None if root.primitives else mine
        rest = [node for node in root.children if node not in mine] if not root.primitives else root.children
        for node in rest:
            yield node, node.children if node.children and not node.primitives else None
        return
    if root.primitives:
        yield root, None
    for node in root.children:
        if node.primitives:
            yield node, None
        elif any(child.primitives for child in node.children):
            yield node, [child for child in node.children if child.primitives]


def _is_named(prop: str, name: str, destination: Destination) -> bool:
    return destination.level_number(prop, name) is not None or destination.proxy_number(prop, name) is not None


def _sorted_out(
    chain: Chain,
    candidates: list[tuple[FoundNode, list[FoundNode] | None]],
    destination: Destination,
    *,
    is_flat: bool,
) -> Chain:
    """Levels, their parts and proxies among the candidates; where formats are ``is_flat``, parts lie beside levels."""
    names = {node.name for node, _ in candidates}
    for node, pieces in candidates:
        if not node.primitives and not pieces:
            continue
        number = destination.proxy_number(chain.prop, node.name)
        if number is not None:
            primitives = [p for piece in pieces or [node] for p in piece.primitives]
            chain.proxies.append(ChainProxy(node.name, number, node.is_placed, primitives))
            continue
        level = destination.level_number(chain.prop, node.name)
        owner = _owner_of_part(chain, node.name, names, destination) if level is None and is_flat else None
        if owner is not None:
            part = destination.part_of(owner.name, node.name) or ""
            owner.meshes.append(ChainMesh(node.name, part, node.primitives))
            owner.is_placed |= node.is_placed
            continue
        # A nested root's own move is the prop's place in its scene.
        placed = node.is_placed and not (destination.hierarchy == "nested" and not chain.levels)
        made = ChainLevel(node.name, level, placed or any(piece.is_placed for piece in pieces or ()))
        for piece in pieces or [node]:
            part = destination.part_of(node.name, piece.name) or ("" if pieces is None else piece.name)
            made.meshes.append(ChainMesh(piece.name, part, piece.primitives))
        chain.levels.append(made)
    return chain


def _owner_of_part(chain: Chain, name: str, names: set[str], destination: Destination) -> ChainLevel | None:
    """The level that a mesh is a part of by its name, which has no mesh under its own; made where it is the first."""
    for number in range(_MOST_LEVELS):
        title = destination.level_name(chain.prop, number)
        if title in names or destination.part_of(title, name) is None:
            continue
        known = [level for level in chain.levels if level.name == title]
        if not known:
            chain.levels.append(ChainLevel(title, number, is_placed=False))
        return (known or chain.levels)[-1]
    return None


_MOST_LEVELS = 16


def likely_name(name: str, chain: Chain, destination: Destination) -> tuple[str, bool]:
    """The name that would have worked for a node, and whether it is that of a proxy: the nearest of those that are not
    taken, else that of the next level."""
    levels = {level.number for level in chain.levels}
    proxies = {proxy.number for proxy in chain.proxies}
    kind = "box"
    free = [destination.level_name(chain.prop, k) for k in range(len(chain.levels)) if k not in levels]
    hulls = [destination.proxy_name(chain.prop, k, kind) for k in range(len(proxies) + 4) if k not in proxies]
    near = difflib.get_close_matches(name, [*free, *hulls], 1, _ALIKE)
    if near:
        return near[0], near[0] in hulls
    return (free or hulls)[0], not free
