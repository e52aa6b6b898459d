"""Who made a decision, and who took it back."""

from typing import ClassVar

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies: ClassVar = [("bench", "0002_words")]

    operations: ClassVar = [
        migrations.AddField("decision", "author", models.CharField(blank=True, max_length=64)),
        migrations.AddField("decision", "undone_by", models.CharField(blank=True, max_length=64)),
    ]
