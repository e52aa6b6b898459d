"""How many findings of each severity a result has, so that the board need not read all findings."""

from collections import Counter
from typing import Any, ClassVar

from django.db import migrations, models


def count(apps: Any, schema_editor: Any) -> None:
    model = apps.get_model("yard", "Built")
    for built in model.objects.only("findings").iterator():
        built.severities = Counter(finding["severity"] for finding in built.findings)
        built.save(update_fields=["severities"])


class Migration(migrations.Migration):
    dependencies: ClassVar = [("yard", "0006_project_files_and_words")]

    operations: ClassVar = [
        migrations.AddField(model_name="built", name="severities", field=models.JSONField(default=dict)),
        migrations.RunPython(count, migrations.RunPython.noop),
    ]
