"""Files of a prop's earlier shipments that it would write no more, as after it was renamed."""

from collections.abc import Iterable, Sequence
from pathlib import PurePosixPath

from plindro.core.destinations import ENDINGS, Destination
from plindro.core.errors import InvalidSettings
from plindro.core.stations.naming import ShippedNames
from plindro.web.catalogue.entries import destination_named
from plindro.web.shipping.items import paths_of
from plindro.web.shipping.models import ShipmentItem
from plindro.web.shipping.schemas import LeftOut
from plindro.web.shipping.services import files_of_names, ship_names
from plindro.web.yard.models import Prop


def last_files(destination: Destination, props: Iterable[int] | None = None) -> dict[int, list[str]]:
    """The files of each prop's own in its last shipment to a destination; shared textures may be others' too."""
    found: dict[int, list[str]] = {}
    items = ShipmentItem.objects.filter(shipment__destination=destination.name, state=ShipmentItem.State.SHIPPED)
    if props is not None:
        items = items.filter(prop__in=list(props))
    for prop, record in items.order_by("pk").values_list("prop_id", "record"):
        found[prop] = [path for path in paths_of(record) if not destination.is_shared(path)]
    return found


def left_behind(prop: Prop) -> list[LeftOut]:
    """What a shipment of the prop as it is now would leave behind, by destination."""
    shipped = ShipmentItem.objects.filter(prop=prop, state=ShipmentItem.State.SHIPPED)
    rows = []
    for name in shipped.order_by().values_list("shipment__destination", flat=True).distinct():
        try:
            destination = destination_named(name)
        except InvalidSettings:
            continue
        left = left_at(ship_names(prop, destination), destination, last_files(destination, [prop.pk]).get(prop.pk, []))
        if left:
            rows.append(LeftOut(destination=destination.title, files=left))
    return rows


def left_at(names: Sequence[ShippedNames], destination: Destination, before: Iterable[str]) -> list[str]:
    """The files written ``before`` that a prop of these names writes no more.

    Images beside its file are known by its name in front of theirs.
    """
    now, roots = files_of_names(names), tuple(f"{own.root}_" for own in names)

    def is_image(path: str) -> bool:
        return PurePosixPath(path).name.startswith(roots) and not path.endswith(ENDINGS[destination.format])

    return [path for path in before if path not in now and not is_image(path)]
