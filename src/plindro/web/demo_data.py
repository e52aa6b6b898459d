"""Loading the demo: its props on an empty board, once."""

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from django.conf import settings

from plindro.core.lines import DEFAULT_LINE
from plindro.core.shipping import write_whole
from plindro.demo import DEMO_PROPS, DRUM_STATES, NAME, build_drum, build_jetty, build_landing, build_prop
from plindro.web.yard.models import Project, Prop
from plindro.web.yard.services import import_bytes

LINES_OF = dict.fromkeys(
    ("barometer", "gas_bottle", "storm làntern 01", "oil_can", "sounding_lead", "net_float"), "small"
)
ENGINE_FOLDER = "props"
"""Below the folder that shipments are delivered into: that of the simulated engine project."""
OVERRIDES: dict[str, dict[str, Any]] = {
    "oil_drum": {"levels": {"states": DRUM_STATES}},
    "davit": {"collision": {"kind": "pieces"}},
    "gas_bottle": {"collision": {"kind": "simple"}},
    "mooring_bollard": {"collision": {"kind": "hull", "margin": 0.005}},
}
"""Settings that go with a source."""


def _drop_by_hand() -> None:
    """Leave a file in the folder of the engine project that is no delivery's, as colleagues do."""
    folder = Path(settings.DELIVERIES) / ENGINE_FOLDER
    folder.mkdir(parents=True, exist_ok=True)
    write_whole(folder / "jetty.glb", build_jetty(), mode=0o644)


def load_demo(on_progress: Callable[[int, int, str], None]) -> int:
    """Build and import the demo props where the board never had any; returns how many were loaded.

    ``on_progress`` receives how many are done, of how many, and the next one's name.
    """
    if Prop.objects.exists():
        return 0
    sources = {stem: partial(build_prop, stem) for stem in DEMO_PROPS} | {
        "oil_drum": build_drum,
        "landing_stage": build_landing,
    }
    for i, (stem, build) in enumerate(sources.items()):
        on_progress(i, len(sources), stem)
        import_bytes(build(), line=LINES_OF.get(stem, DEFAULT_LINE), overrides=OVERRIDES.get(stem, {}))
    _drop_by_hand()
    project = Project.objects.get_or_create(pk=1, defaults={"name": ""})[0]
    project.name, project.has_demo = project.name or NAME, True
    project.save()
    on_progress(len(sources), len(sources), "done")
    return len(sources)
