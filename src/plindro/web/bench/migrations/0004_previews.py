"""Levels that are looked at before they are decided."""

from typing import ClassVar

from django.db import migrations, models
from django.db.models.deletion import CASCADE


class Migration(migrations.Migration):
    dependencies: ClassVar = [("bench", "0003_versions"), ("yard", "0001_initial")]

    operations: ClassVar = [
        migrations.CreateModel(
            name="LevelPreview",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("triangles", models.PositiveIntegerField()),
                ("key", models.CharField(max_length=64)),
                ("error", models.TextField(blank=True)),
                ("prop", models.OneToOneField(on_delete=CASCADE, related_name="level_preview", to="yard.prop")),
            ],
        ),
    ]
