"""Move a workshop's own words to the numbers that the rows of the table of steps have now."""

from typing import Any

from django.db import migrations

RENAMED = {
    **{f"take_off:{end}_shifter#2": f"take_off:{end}_shifter#4" for end in ("front", "rear")},
    **{f"take_off:{end}_shifter": f"take_off:{end}_shifter#3" for end in ("front", "rear")},
    **{f"fit:{end}_shifter#3": f"fit:{end}_shifter#5" for end in ("front", "rear")},
    **{f"fit:{end}_shifter#2": f"fit:{end}_shifter#4" for end in ("front", "rear")},
    **{f"fit:{end}_shifter": f"fit:{end}_shifter#3" for end in ("front", "rear")},
    "fit:{end}_hub": "fit:{end}_hub#2",
}


def take_over(apps: Any, schema_editor: Any) -> None:
    for old, new in RENAMED.items():
        apps.get_model("rulebook", "CustomStep").objects.filter(code=old).update(code=new)


class Migration(migrations.Migration):
    dependencies = [("rulebook", "0004_service_packages")]
    operations = [migrations.RunPython(take_over, migrations.RunPython.noop)]
