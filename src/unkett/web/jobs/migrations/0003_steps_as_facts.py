from typing import Any

from django.db import migrations

NEW = {"requires": [], "effects": [], "with": [], "causes": ["job"], "done": False}
# Rows of the table of steps that are gone, with the row that took their place; none: the planner brings the work.
RENAMED = {
    "take_off:pedals": "take_off:pedals:right",
    "take_off:bottom_bracket": "take_off:bottom_bracket:drive",
    "take_off:bottom_bracket#3": "take_off:bottom_bracket",
    "prepare:handlebar:out": "take_off:handlebar",
    "adjust:handlebar:clamp": "fit:handlebar#3",
    "adjust:handlebar:clamp#2": "fit:handlebar#4",
    "prepare:front_caliper:hung": "take_off:{end}_caliper",
    "adjust:{end}_spokes:lace": "fit:{end}_spokes",
}
GONE = (
    "prepare:handlebar:controls",
    "adjust:handlebar:controls",
    "adjust:front_caliper:hung",
    "adjust:front_caliper:hung#2",
    "adjust:front_caliper:hung#3",
)


def take_over(apps: Any, schema_editor: Any) -> None:
    """Give the steps of running jobs what new sheets say, and own steps the rows that took their rows' place."""
    JobStep = apps.get_model("jobs", "JobStep")
    stored = []
    for step in JobStep.objects.filter(job__ended=None).iterator():
        step.content = {**NEW, **step.content}
        step.content["done"] = step.done_at is not None
        stored.append(step)
    JobStep.objects.bulk_update(stored, ["content"], batch_size=500)
    CustomStep = apps.get_model("jobs", "CustomStep")
    for row in CustomStep.objects.all():
        code = RENAMED.get(row.code)
        if row.code in GONE or (code and CustomStep.objects.filter(workshop=row.workshop, code=code).exists()):
            row.delete()
        elif code:
            row.code = code
            row.save(update_fields=["code"])
    known = {old.partition("#")[0] for old in (*RENAMED, *GONE)}
    for row in CustomStep.objects.all():
        after = [name for name in row.content.get("after", []) if name.partition("#")[0] not in known]
        if after != row.content.get("after", []):
            row.content["after"] = after
            row.save(update_fields=["content"])


class Migration(migrations.Migration):
    dependencies = [("jobs", "0002_plain_names")]

    operations = [migrations.RunPython(take_over, migrations.RunPython.noop)]
