"""Loading the demo: its props on an empty board, once."""

from collections.abc import Callable

from plindro.demo import DEMO_PROPS, build_prop
from plindro.web.yard.models import Prop
from plindro.web.yard.services import import_upload
from plindro.web.yard.uploads import sort_upload

LINES_OF = {"barometer": "small", "gas_bottle": "small", "storm làntern 01": "small"}


def load_demo(on_progress: Callable[[int, int, str], None]) -> int:
    """Build and import the demo props where the board never had any; returns how many were loaded.

    ``on_progress`` receives how many are done, of how many, and the next one's name.
    """
    if Prop.objects.exists():
        return 0
    stems = list(DEMO_PROPS)
    for i, stem in enumerate(stems):
        on_progress(i, len(stems), stem)
        upload = sort_upload(build_prop(stem).items())
        import_upload(upload, line=LINES_OF.get(stem, "standing"))
    on_progress(len(stems), len(stems), "done")
    return len(stems)
