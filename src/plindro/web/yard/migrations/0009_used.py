"""When a result was last asked for."""

from typing import ClassVar

from django.db import migrations, models
from django.utils import timezone


class Migration(migrations.Migration):
    dependencies: ClassVar = [("yard", "0008_versions")]

    operations: ClassVar = [
        migrations.AddField("built", "used", models.DateTimeField(default=timezone.now)),
    ]
