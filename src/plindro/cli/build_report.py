"""What lies beside built files: the manifest, the report and the contact sheet; and waivers as they are given."""

import getpass
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from plindro.core.destinations import Destination
from plindro.core.errors import InvalidSettings
from plindro.core.rehearsal.folder import CONTACT_SHEET, MANIFEST, REPORT
from plindro.core.shipping import manifest_json, write_whole
from plindro.core.waivers import Waiver
from plindro.web.shipping.report import write_contact_sheet, write_report

PICTURE_SIZE = 256


def read_waivers(given: Sequence[str], by: str | None) -> tuple[Waiver, ...]:
    """Waivers from ``CODE=REASON``, answered for by a name, else the user's; raises ``InvalidSettings``."""
    waivers = []
    for text in given:
        code, is_there, reason = text.partition("=")
        if not is_there or not reason.strip():
            raise InvalidSettings(
                f'--waive {text}: give a finding\'s code and a reason, as light-map-missing="no baking"'
            )
        waivers.append(Waiver(code.strip(), (by or _user()).strip(), reason.strip()))
    return tuple(waivers)


def _user() -> str:
    try:
        return getpass.getuser()
    except (KeyError, OSError) as error:
        raise InvalidSettings("--waive: say who answers for it with --by NAME") from error


def write_beside(
    folder: Path,
    destination: Destination,
    version: int,
    records: Sequence[dict[str, Any]],
    pictures: Mapping[str, bytes],
) -> None:
    """Write manifest, report and contact sheet into the folder; raises ``InvalidSettings`` where that cannot be."""
    drawn = {name: data for name, data in pictures.items() if data}
    title = f"Shipment for {destination.title}"
    about = f"destination {destination.name}, version {version}"
    try:
        write_whole(folder / MANIFEST, manifest_json(records, destination.name, version))
        write_whole(folder / REPORT, write_report(title, about, records, drawn))
        write_whole(folder / CONTACT_SHEET, write_contact_sheet(title, records, drawn))
    except OSError as error:
        raise InvalidSettings(f"{folder}: the report cannot be written ({error.strerror}); make room") from error
