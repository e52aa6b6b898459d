"""Shipments in the words of the trade."""

from typing import Any, ClassVar

from django.db import migrations

from plindro.core.settings_versions import brought_up
from plindro.web.yard.migrations import _first_words as words


def carry_over(apps: Any, schema_editor: Any) -> None:
    """Lines and records of before, in the names of now."""
    for item in apps.get_model("shipping", "ShipmentItem").objects.iterator():
        item.line, item.record = brought_up(item.line, 1, to=2), words.record_of(item.record)
        item.save(update_fields=["line", "record"])


class Migration(migrations.Migration):
    dependencies: ClassVar = [("shipping", "0001_initial"), ("yard", "0006_project_files_and_words")]

    operations: ClassVar = [migrations.RunPython(carry_over, migrations.RunPython.noop)]
