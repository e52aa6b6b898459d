"""Jobs have a priority, and count how often they were begun."""

from typing import ClassVar

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies: ClassVar = [("work", "0002_subject")]
    operations: ClassVar = [
        migrations.AddField(
            "Job",
            "priority",
            models.SmallIntegerField(choices=[(0, "Bench"), (1, "Board"), (2, "Batch")], default=1),
        ),
        migrations.AddField("Job", "attempts", models.PositiveSmallIntegerField(default=0)),
        migrations.RemoveIndex("Job", "work_job_state_da00e0_idx"),
        migrations.AddIndex("Job", models.Index(fields=["state", "priority", "id"], name="work_job_queue_idx")),
    ]
