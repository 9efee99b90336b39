"""What is promised of a bike stands on its plan, so that a quote has it before there is a job."""

from typing import Any

import django.db.models.deletion
import django.utils.timezone
from django.db import migrations, models


def to_plans(apps: Any, _editor: Any) -> None:
    """Move what jobs promise to their plans."""
    for job in apps.get_model("jobs", "Job").objects.select_related("plan"):
        job.plan.promised, job.plan.parts_on = job.promised, job.parts_here
        job.plan.save(update_fields=["promised", "parts_on"])


def to_jobs(apps: Any, _editor: Any) -> None:
    """Move it back."""
    for job in apps.get_model("jobs", "Job").objects.select_related("plan"):
        job.promised, job.parts_here = job.plan.promised, job.plan.parts_on
        job.save(update_fields=["promised", "parts_here"])


class Migration(migrations.Migration):
    dependencies = [
        ("jobs", "0006_schedule_made_again"),
        ("plans", "0006_quote_and_promise"),
    ]

    operations = [
        migrations.RunPython(to_plans, to_jobs),
        migrations.RemoveField(model_name="job", name="parts_here"),
        migrations.RemoveField(model_name="job", name="promised"),
        migrations.AddField(
            model_name="outsidework",
            name="item",
            field=models.ForeignKey(
                null=True,
                on_delete=django.db.models.deletion.SET_NULL,
                related_name="+",
                to="plans.quoteitem",
            ),
        ),
        migrations.AlterField(
            model_name="outsidework",
            name="since",
            field=models.DateField(default=django.utils.timezone.localdate, null=True),
        ),
    ]
