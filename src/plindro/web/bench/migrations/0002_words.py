"""Decisions in the words of the trade."""

from typing import Any, ClassVar

from django.db import migrations

from plindro.web.yard.migrations import _first_words as words


def carry_over(apps: Any, schema_editor: Any) -> None:
    """What was decided, in the settings' names of now."""
    for decision in apps.get_model("bench", "Decision").objects.iterator():
        decision.before, decision.after = words.decided_of(decision.before), words.decided_of(decision.after)
        decision.save(update_fields=["before", "after"])


class Migration(migrations.Migration):
    dependencies: ClassVar = [("bench", "0001_initial"), ("yard", "0006_project_files_and_words")]

    operations: ClassVar = [migrations.RunPython(carry_over, migrations.RunPython.noop)]
