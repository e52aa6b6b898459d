"""Decided values carry the version in which they were decided."""

from typing import ClassVar

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies: ClassVar = [("yard", "0007_built_severities")]

    operations: ClassVar = [
        # What the migrations before this one leave behind is of the second version.
        migrations.AddField("prop", "settings_version", models.PositiveSmallIntegerField(default=2)),
        migrations.AddField("prop", "version", models.PositiveIntegerField(default=0)),
        migrations.AddField("prop", "revisions", models.JSONField(default=dict)),
    ]
