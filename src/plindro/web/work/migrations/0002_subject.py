"""Jobs name the row that they are about by its number alone."""

from typing import Any, ClassVar

from django.db import migrations, models


def carry_over(apps: Any, schema_editor: Any) -> None:
    """The prop or the item that a job was about."""
    for job in apps.get_model("work", "Job").objects.iterator():
        job.subject = job.item_id if job.item_id is not None else job.prop_id
        job.save(update_fields=["subject"])


class Migration(migrations.Migration):
    dependencies: ClassVar = [("work", "0001_initial")]

    operations: ClassVar = [
        migrations.AlterField(model_name="job", name="kind", field=models.CharField(max_length=16)),
        migrations.AddField(model_name="job", name="subject", field=models.BigIntegerField(null=True)),
        migrations.RunPython(carry_over, migrations.RunPython.noop),
        migrations.RemoveField(model_name="job", name="prop"),
        migrations.RemoveField(model_name="job", name="item"),
        migrations.AddIndex(
            model_name="job",
            index=models.Index(fields=["kind", "subject"], name="work_job_kind_subject_idx"),
        ),
    ]
