"""Props on the board of a server that is not running yet, with results that tests have built already.

``python -m tests.e2e.seed SOURCES RESULTS`` reads from standard input
``{"name of the prop": ["stem of its source", whether it has levels when it is built again]}``.
"""

import json
import os
import pickle
import sys
from pathlib import Path

os.environ["DJANGO_SETTINGS_MODULE"] = "plindro.web.settings"


def main(sources: Path, results: Path, names: dict[str, tuple[str, bool]]) -> None:
    """Migrate, and put every prop on the board as if it had been built there."""
    import django

    django.setup()
    from django.core.management import call_command

    from plindro.web import store
    from plindro.web.yard.building import build_order, write_result
    from plindro.web.yard.models import Prop
    from plindro.web.yard.services import request_build
    from plindro.web.yard.tasks import BuildResult, result_of

    call_command("migrate", verbosity=0)
    kept = store.files()
    built: dict[str, BuildResult] = {}
    for name, (stem, has_levels) in names.items():
        files = {path.name: path.read_bytes() for path in sorted((sources / stem).iterdir())}
        source = next(file for file in files if file.endswith((".obj", ".usda")))
        digests = {file: kept.keep(data) for file, data in files.items()}
        prop = Prop.objects.create(
            name=name,
            source_name=source,
            source=digests.pop(source),
            source_bytes=len(files[source]),
            side_files=digests,
            overrides={} if has_levels else {"levels": {"has_levels": False}},
        )
        order = build_order(prop)
        if stem not in built:
            prepared = pickle.loads((results / f"{stem}.pickle").read_bytes())
            built[stem] = result_of(prepared, source, order.source.key, kept, wants_source_model=True)
        write_result(order.key, built[stem])
        request_build(prop)
        prop.refresh_from_db()
        assert prop.state == Prop.State.BUILT


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]), json.load(sys.stdin))
