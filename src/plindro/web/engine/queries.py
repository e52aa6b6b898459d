"""Reading the simulated engine."""

from urllib.parse import quote

from django.conf import settings

from plindro.core.rehearsal import SeenProp
from plindro.web.engine import services
from plindro.web.engine.models import Asset, EngineProject
from plindro.web.engine.schemas import AssetOut, EngineOut

_DRAWN = (".glb", ".gltf")


def project_detail(project: EngineProject) -> EngineOut:
    """A project with its assets, and what is new in its folder."""
    project.refresh_from_db()
    changes = {asset.path: asset.change for asset in services.noticed(project)}
    assets = list(project.assets.all())
    known = {asset.path for asset in assets}
    return EngineOut(
        id=project.pk,
        root=str(settings.DELIVERIES),
        folder=project.folder,
        destination=project.destination,
        indices=project.indices,
        vertex_limit=services.read_as(project).max_engine_vertices,
        is_importing=project.is_importing,
        error=project.error,
        imports=project.imports,
        noticed=[path for path, change in changes.items() if change == "new" and path not in known],
        assets=[_asset(project, asset, changes.get(asset.path, "vanished")) for asset in assets],
    )


def _asset(project: EngineProject, asset: Asset, change: str) -> AssetOut:
    # It may have been imported since its folder was looked at.
    change = "same" if change == "new" else change
    is_there = change != "vanished" and asset.seen is not None and asset.path.endswith(_DRAWN)
    return AssetOut(
        id=asset.pk,
        path=asset.path,
        change=change,  # type: ignore[arg-type]
        seen=SeenProp.model_validate(asset.seen) if asset.seen else None,
        findings=asset.findings,
        error=asset.error,
        distances=asset.distances,
        # The stamp makes an address of its own for each import, so that no browser shows what was there before.
        model=f"/api/engine/{project.pk}/files/{asset.stamp}/{quote(asset.path)}" if is_there else None,
        x=asset.x,
        z=asset.z,
        turn=asset.turn,
    )
