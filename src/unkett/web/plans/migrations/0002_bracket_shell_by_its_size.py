import json

from django.db import migrations

WAS, IS = '"bbright"', '"offset46"'


def rename(apps, _schema):
    """Every stored shell of 46 mm off centre, on bikes, in catalogues, in plans and in what can be undone."""
    for app, model, field in (
        ("bikes", "FittedPart", "attrs"),
        ("bikes", "Bike", "undo"),
        ("catalogue", "CataloguePart", "attrs"),
        ("plans", "Change", "attrs"),
    ):
        rows = apps.get_model(app, model).objects.exclude(**{f"{field}__isnull": True})
        for row in rows.only("pk", field).iterator():
            text = json.dumps(getattr(row, field))
            if WAS in text:
                setattr(row, field, json.loads(text.replace(WAS, IS)))
                row.save(update_fields=[field])


class Migration(migrations.Migration):
    """The 46 mm shell off centre is called by its size."""

    dependencies = [
        ("plans", "0001_start"),
        ("bikes", "0005_empty_slots"),
        ("catalogue", "0003_version_on_the_workshop"),
    ]

    operations = [migrations.RunPython(rename, migrations.RunPython.noop)]
