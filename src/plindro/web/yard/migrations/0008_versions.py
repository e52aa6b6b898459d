"""Decided values carry the version in which they were decided."""

from typing import ClassVar

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies: ClassVar = [("yard", "0007_built_severities")]

    operations: ClassVar = [
        migrations.AddField("prop", "version", models.PositiveIntegerField(default=0)),
        migrations.AddField("prop", "revisions", models.JSONField(default=dict)),
    ]
