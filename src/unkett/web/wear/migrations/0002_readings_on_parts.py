"""Let every part carry its last reading, as it does from now on with each new one."""

from typing import Any

from django.db import migrations

ATTRS = {
    "chain_pct": "elongation_pct",
    "rotor_mm": "measured_mm",
    "pad_mm": "pad_mm",
    "rim_wall_mm": "wall_mm",
    "tread_mm": "tread_mm",
}


def carry(apps: Any, schema_editor: Any) -> None:
    readings = apps.get_model("wear", "WearReading").objects
    last = readings.filter(latest=True, struck=False, sort__in=ATTRS).select_related("part").order_by("on", "id")
    for reading in last.iterator(chunk_size=500):
        part, attr = reading.part, ATTRS[reading.sort]
        part.attrs = {**part.attrs, attr: reading.value}
        part.origins = {**part.origins, attr: "measured"}
        part.save(update_fields=["attrs", "origins"])


class Migration(migrations.Migration):
    dependencies = [("wear", "0001_squashed"), ("bikes", "0004_settled_needs")]
    operations = [migrations.RunPython(carry, migrations.RunPython.noop, elidable=True)]
