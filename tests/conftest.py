"""What all tests share: a state folder of their own, a reproducible property-test profile."""

import os
import tempfile
from collections.abc import Callable
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

os.environ.setdefault("PLINDRO_HOME", tempfile.mkdtemp(prefix="plindro-test-"))

import pytest
from hypothesis import HealthCheck, settings

if TYPE_CHECKING:
    from plindro.core.shipping import PrepareResult

settings.register_profile(
    "reproducible", deadline=None, derandomize=True, max_examples=40, suppress_health_check=[HealthCheck.too_slow]
)
settings.load_profile("reproducible")


@pytest.fixture(scope="session")
def demo_sources(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder with every demo source, each in a folder of its own."""
    from plindro.demo import DEMO_PROPS, build_prop

    folder = tmp_path_factory.mktemp("skerry-light")
    for stem in DEMO_PROPS:
        (folder / stem).mkdir()
        for name, data in build_prop(stem).items():
            (folder / stem / name).write_bytes(data)
    return folder


@pytest.fixture(scope="session")
def demo_result(demo_sources: Path) -> "Callable[[str], PrepareResult]":
    """A demo prop prepared on the standing line for a plain GLB, each once for all tests."""
    from plindro.core.destinations import get_destination
    from plindro.core.files import FolderFiles
    from plindro.core.lines import get_line
    from plindro.core.shipping import prepare

    @cache
    def prepared(stem: str) -> "PrepareResult":
        path = demo_sources / stem / f"{stem}.obj"
        return prepare(
            path.read_bytes(), path.name, FolderFiles(path.parent), get_line("standing"), get_destination("plain")
        )

    return prepared
