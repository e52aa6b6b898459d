"""The jobs of a shipment: each item as it was ordered, the archive of them all, and deliveries."""

from concurrent.futures import Executor, Future
from typing import Any

from plindro.core.shipping.delivery import Plan
from plindro.web.shipping import deliveries, items, packing, services, tasks
from plindro.web.shipping.deliveries import DELIVER
from plindro.web.shipping.models import Shipment, ShipmentItem
from plindro.web.shipping.packing import PACK
from plindro.web.shipping.services import SHIP
from plindro.web.work.models import Job
from plindro.web.work.progress import JobChannel
from plindro.web.work.registry import Handler, register, settles
from plindro.web.yard.building import ready_of, submit_order, write_result
from plindro.web.yard.models import Built
from plindro.web.yard.tasks import BuildResult


def _item(job: Job) -> ShipmentItem:
    return ShipmentItem.objects.select_related("shipment", "prop").get(pk=job.about)


def _submit(job: Job, channel: JobChannel, executor: Executor) -> Future[Any]:
    return submit_order(job, items.build_order(_item(job)), channel, executor)


def _finish(job: Job, result: BuildResult | Built) -> None:
    services.finish_item(_item(job), ready_of(write_result(job.key, result)))


def _ended(job: Job) -> None:
    services.item_ended(_item(job), job)


def _shipment(job: Job) -> Shipment:
    return Shipment.objects.get(pk=job.about)


def _submit_packing(job: Job, channel: JobChannel, executor: Executor) -> Future[Any]:
    return executor.submit(tasks.pack, packing.pack_order(_shipment(job)), channel)


def _finish_packing(job: Job, extras: dict[str, str]) -> None:
    packing.packed(_shipment(job), extras)


def _packing_ended(job: Job) -> None:
    packing.packing_ended(_shipment(job), job)


def _submit_delivery(job: Job, channel: JobChannel, executor: Executor) -> Future[Any]:
    return executor.submit(tasks.deliver_files, deliveries.order_of(_shipment(job)), channel)


def _finish_delivery(job: Job, plan: Plan) -> None:
    deliveries.delivered(_shipment(job), plan)


def _delivery_ended(job: Job) -> None:
    deliveries.delivery_ended(_shipment(job), job)


def register_jobs() -> None:
    """Tell the queue who ships."""
    register(SHIP, Handler(_submit, _finish, lambda job: items.source_files(_item(job)).name, ended=_ended))
    packing_handler = Handler(
        _submit_packing, _finish_packing, lambda job: f"shipment {job.about}", ended=_packing_ended
    )
    register(PACK, packing_handler)
    register(
        DELIVER,
        Handler(_submit_delivery, _finish_delivery, lambda job: f"shipment {job.about}", ended=_delivery_ended),
    )
    settles(deliveries.settle_deliveries)
    settles(services.settle_shipments)
