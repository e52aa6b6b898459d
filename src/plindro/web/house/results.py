"""What has come of a trial."""

from typing import Any, cast

from plindro.web.house.models import Trial, TrialItem
from plindro.web.house.schemas import FiguresOut, FileOut, LevelFigures, TrialOut, TrialRow
from plindro.web.house.trials import TRY
from plindro.web.schemas import FindingOut
from plindro.web.work.models import Job
from plindro.web.yard.building import address_of, files_of
from plindro.web.yard.models import Built


def trial_out(trial: Trial) -> TrialOut:
    """A trial with what has come of it so far."""
    items = list(trial.items.select_related("prop"))
    keys = {key for item in items for key in (item.before, item.key) if key}
    built = {row.key: row for row in Built.objects.filter(key__in=keys)}
    jobs = Job.objects.filter(kind=TRY, subject__in=[item.pk for item in items])
    running = jobs.filter(state=Job.State.RUNNING).first()
    done = sum(item.state != TrialItem.State.WAITING for item in items)
    return TrialOut(
        id=trial.pk,
        fraction=(done + (running.fraction if running else 0.0)) / max(len(items), 1),
        doing=running.doing if running else "",
        rows=[_row(item, built) for item in items],
    )


def _row(item: TrialItem, built: dict[str, Built]) -> TrialRow:
    before, after = built.get(item.before), built.get(item.key)
    addresses = {name: digest for (kind, name), digest in files_of(after).items() if kind == "shipped"} if after else {}
    files = after.record.get("files", []) if after else []
    return TrialRow(
        prop=item.prop_id,
        name=item.prop.name,
        state=cast(Any, item.state),
        error=item.error,
        before=_figures(before) if before else None,
        after=_figures(after) if after else None,
        files=[
            FileOut(
                path=file["path"],
                bytes=file["bytes"],
                sha256=file["sha256"],
                address=address_of(addresses.get(file["path"]), "bin") or "",
            )
            for file in files
        ],
    )


def _figures(built: Built) -> FiguresOut:
    record = built.record
    return FiguresOut(
        status=cast(Any, built.status),
        levels=[
            LevelFigures(
                name=row["name"], triangles=row["triangles"], vertices=row["vertices"], deviation=row["deviation"]
            )
            for row in record.get("levels", [])
        ],
        bytes=sum(file["bytes"] for file in record.get("files", [])),
        picture=address_of(files_of(built).get(("picture", "")), "png"),
        findings=[FindingOut.model_validate({**row, "places": None}) for row in built.findings],
    )
