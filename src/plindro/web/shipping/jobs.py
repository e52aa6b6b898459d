"""The job of a shipment's item: building it as it was ordered, and writing its files."""

from concurrent.futures import Executor, Future
from typing import Any

from plindro.web.shipping.models import ShipmentItem
from plindro.web.shipping.services import SHIP, build_order, finish_item, item_ended
from plindro.web.work.models import Job
from plindro.web.work.progress import JobChannel
from plindro.web.work.registry import Handler, register
from plindro.web.yard.building import submit_order
from plindro.web.yard.models import Built
from plindro.web.yard.tasks import BuildResult


def _item(job: Job) -> ShipmentItem:
    return ShipmentItem.objects.select_related("shipment", "prop").get(pk=job.about)


def _submit(job: Job, channel: JobChannel, executor: Executor) -> Future[Any]:
    return submit_order(job, build_order(_item(job)), channel, executor)


def _finish(job: Job, result: BuildResult | Built) -> None:
    finish_item(_item(job), job.key, result)


def _ended(job: Job) -> None:
    item_ended(_item(job), job)


def register_jobs() -> None:
    """Tell the queue who ships."""
    register(SHIP, Handler(_submit, _finish, _ended))
