"""Settings carry the version of their words."""

from typing import ClassVar

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies: ClassVar = [("yard", "0009_used")]

    operations: ClassVar = [
        # What the migrations before this one leave behind is of the second version.
        migrations.AddField("prop", "settings_version", models.PositiveSmallIntegerField(default=2)),
    ]
