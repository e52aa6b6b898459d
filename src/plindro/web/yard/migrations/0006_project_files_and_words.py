"""A project with a name, files in a table of their own, facts by station, and the words of the trade."""

from typing import Any, ClassVar

from django.db import migrations, models

from plindro.core.settings_versions import brought_up
from plindro.web.yard.migrations import _first_words as words


def carry_over(apps: Any, schema_editor: Any) -> None:
    """Results, settings and files of before, in the shapes of now."""
    prop_model, built_model, kept_model = (apps.get_model("yard", name) for name in ("Prop", "Built", "KeptFile"))
    for prop in prop_model.objects.iterator():
        prop.overrides = brought_up(prop.overrides, 1, to=2)
        prop.save(update_fields=["overrides"])
    files = []
    for built in built_model.objects.iterator():
        try:
            built.facts = words.facts_of(built.facts)
        except (KeyError, TypeError, AttributeError):
            # Of a still earlier version; it is built again at the start.
            built.facts = {}
        built.findings = [words.finding_of(finding) for finding in built.findings]
        built.save(update_fields=["facts", "findings"])
        single = (("model", built.view), ("picture", built.picture), ("sheet", built.sheet), ("descent", built.descent))
        files += [kept_model(key=built.key, kind=kind, digest=digest) for kind, digest in single if digest]
        files += [
            kept_model(key=built.key, kind=kind, name=name, digest=digest)
            for kind, named in (("shipped", built.files), ("state", built.state_views))
            for name, digest in named.items()
        ]
    for view in apps.get_model("yard", "SourceView").objects.iterator():
        files.append(kept_model(key=view.key, kind="source", digest=view.view))
    kept_model.objects.bulk_create(files, ignore_conflicts=True)
    if prop_model.objects.filter(source_name="fog_bell.obj").exists():
        apps.get_model("yard", "Project").objects.create(pk=1, name="Skerry Light", has_demo=True)


class Migration(migrations.Migration):
    dependencies: ClassVar = [("yard", "0005_state_views")]

    operations: ClassVar = [
        migrations.CreateModel(
            name="Project",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=80)),
                ("has_demo", models.BooleanField(default=False)),
            ],
        ),
        migrations.CreateModel(
            name="KeptFile",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("key", models.CharField(max_length=64)),
                ("kind", models.CharField(max_length=16)),
                ("name", models.CharField(blank=True, max_length=255)),
                ("digest", models.CharField(blank=True, max_length=64)),
            ],
        ),
        migrations.AddConstraint(
            model_name="keptfile",
            constraint=models.UniqueConstraint(fields=("key", "kind", "name"), name="one_file_of_a_name"),
        ),
        migrations.AddField(model_name="built", name="record", field=models.JSONField(default=dict)),
        migrations.RunPython(carry_over, migrations.RunPython.noop),
        migrations.DeleteModel(name="SourceView"),
        *(
            migrations.RemoveField(model_name="built", name=name)
            for name in ("view", "picture", "files", "sheet", "descent", "state_views")
        ),
    ]
