"""The images that a source's materials use: each read once, and told where it is missing or no image."""

from collections.abc import Callable, Hashable

from plindro.core.errors import UnreadableFile
from plindro.core.files.images import read_image
from plindro.core.findings import Finding, Severity
from plindro.core.scene import Image


class SourceImages:
    """Puts images among ``images``, and what is wrong with one among ``findings``, once however often it is used."""

    def __init__(self, images: list[Image], findings: list[Finding]) -> None:
        self._images, self._findings = images, findings
        self._number: dict[Hashable, int | None] = {}

    def number_of(self, name: str, material: str, get: Callable[[str], bytes | None]) -> int | None:
        """The number of the image that a material names and ``get`` has; None where there is none to be had."""
        return self.number(name, material, lambda: (get(name), name))

    def number(self, key: Hashable, material: str, get: Callable[[], tuple[bytes | None, str]]) -> int | None:
        """The number of the image under this key, of which ``get`` gives the bytes and the name."""
        if key not in self._number:
            self._number[key] = self._read(*get(), material)
        return self._number[key]

    def _read(self, data: bytes | None, name: str, material: str) -> int | None:
        if data is None:
            text = f"material '{material}': its texture '{name}' is missing; put it beside the file"
            self._findings.append(Finding("missing-texture", Severity.WARNING, text))
            return None
        try:
            self._images.append(read_image(data, name, self._images))
        except UnreadableFile as error:
            text = f"material '{material}': {error}"
            self._findings.append(Finding("unreadable-texture", Severity.WARNING, text))
            return None
        return len(self._images) - 1
