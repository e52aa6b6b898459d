"""What all tests share: a state folder of their own, a reproducible property-test profile."""

import os
import tempfile
from pathlib import Path

os.environ.setdefault("PLINDRO_HOME", tempfile.mkdtemp(prefix="plindro-test-"))

import pytest
from hypothesis import HealthCheck, settings

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
