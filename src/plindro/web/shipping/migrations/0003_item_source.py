"""An item knows the source that it was ordered with, and a shipment why it failed."""

from typing import ClassVar

from django.db import migrations, models


def take_sources(apps, schema_editor):  # type: ignore[no-untyped-def]
    """Items of before have the source that their prop has now."""
    items = apps.get_model("shipping", "ShipmentItem").objects.select_related("prop")
    for item in items.iterator():
        prop = item.prop
        item.source = {"name": prop.source_name, "digest": prop.source, "side_files": prop.side_files}
        item.save(update_fields=["source"])


class Migration(migrations.Migration):
    dependencies: ClassVar = [("shipping", "0002_words"), ("yard", "0007_built_severities")]
    operations: ClassVar = [
        migrations.AddField("ShipmentItem", "source", models.JSONField(default=dict), preserve_default=False),
        migrations.AddField("Shipment", "error", models.TextField(blank=True, default=""), preserve_default=False),
        migrations.AlterField(
            "Shipment",
            "state",
            models.CharField(
                choices=[(state, state.title()) for state in ("running", "done", "failed", "cancelled")],
                default="running",
                max_length=10,
            ),
        ),
        migrations.RunPython(take_sources, migrations.RunPython.noop),
    ]
