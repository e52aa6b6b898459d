"""What all tests share: a state folder of their own, a reproducible property-test profile, the demo's builds."""

import os
import pickle
import tempfile
from collections.abc import Callable
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

os.environ.setdefault("PLINDRO_HOME", tempfile.mkdtemp(prefix="plindro-test-"))

import pytest
from filelock import FileLock
from hypothesis import HealthCheck, settings

if TYPE_CHECKING:
    from plindro.core.shipping import PrepareResult

settings.register_profile(
    "reproducible", deadline=None, derandomize=True, max_examples=20, suppress_health_check=[HealthCheck.too_slow]
)
settings.load_profile("reproducible")


EVIDENCE = ("test_levels", "test_uvs", "test_textures", "test_collision")
"""Files of tests in the browser that take half of the time of all."""


def pytest_xdist_make_scheduler(config: pytest.Config, log: Any) -> Any:
    """What needs the browser goes to two processes, each with a server, and begins first; all else to whoever is free.

    A browser waits for its server half of the time: two of them fill the processors, three would only share them.
    """
    from xdist.scheduler import LoadScopeScheduling

    class BrowserTogether(LoadScopeScheduling):
        def _split_scope(self, nodeid: str) -> str:
            if not nodeid.startswith("tests/e2e/"):
                return nodeid
            return "a browser" if Path(nodeid.partition("::")[0]).stem in EVIDENCE else "another browser"

    return BrowserTogether(config, log)


@pytest.fixture(scope="session")
def shared_folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder of this run that all of its processes see."""
    base = tmp_path_factory.getbasetemp()
    folder = (base.parent if os.environ.get("PYTEST_XDIST_WORKER") else base) / "shared"
    folder.mkdir(exist_ok=True)
    return folder


@pytest.fixture(scope="session")
def demo_sources(shared_folder: Path) -> Path:
    """A folder with every demo source, each in a folder of its own."""
    from plindro.demo import DEMO_PROPS, build_landing, build_prop

    folder = shared_folder / "skerry-light"
    with FileLock(f"{folder}.lock"):
        if folder.exists():
            return folder
        part = folder.with_suffix(".part")
        sources = {stem: build_prop(stem) for stem in DEMO_PROPS} | {"landing_stage": build_landing()}
        for stem, files in sources.items():
            (part / stem).mkdir(parents=True)
            for name, data in files.items():
                (part / stem / name).write_bytes(data)
        part.rename(folder)
    return folder


@pytest.fixture(scope="session")
def demo_result(demo_sources: Path, shared_folder: Path) -> "Callable[[str], PrepareResult]":
    """A demo prop prepared on the standing line for a plain GLB, each once for all tests and all processes."""
    from plindro.core.destinations import get_destination
    from plindro.core.files import FolderFiles
    from plindro.core.lines import get_line
    from plindro.core.shipping import prepare

    @cache
    def prepared(stem: str) -> "PrepareResult":
        kept = shared_folder / f"{stem}.pickle"
        with FileLock(f"{kept}.lock"):
            if not kept.exists():
                path = next(demo_sources.glob(f"{stem}/*.obj"), None) or next(demo_sources.glob(f"{stem}/*.usda"))
                files = FolderFiles(path.parent)
                result = prepare(path.read_bytes(), path.name, files, get_line("standing"), get_destination("plain"))
                kept.write_bytes(pickle.dumps(result))
        loaded: PrepareResult = pickle.loads(kept.read_bytes())
        return loaded

    return prepared
