"""Let a finding of the inspection stand on several parts."""

from typing import Any

from django.db import migrations


def _several(looked: Any) -> Any:
    return {
        code: one if "slots" in one else {**{k: v for k, v in one.items() if k != "slot"}, "slots": [one["slot"]]}
        for code, one in (looked or {}).items()
    }


def take_over(apps: Any, schema_editor: Any) -> None:
    """Turn the one part of each finding into a list, on the bike and in what an undo puts back."""
    Bike = apps.get_model("bikes", "Bike")
    changed = []
    for bike in Bike.objects.only("looked", "undo").iterator():
        if not bike.looked and not (bike.undo or {}).get("looked"):
            continue
        bike.looked = _several(bike.looked)
        if bike.undo and bike.undo.get("looked"):
            bike.undo = {**bike.undo, "looked": _several(bike.undo["looked"])}
        changed.append(bike)
    Bike.objects.bulk_update(changed, ["looked", "undo"], batch_size=500)


class Migration(migrations.Migration):
    dependencies = [("bikes", "0005_summary_of_the_check")]
    operations = [migrations.RunPython(take_over, migrations.RunPython.noop)]
