"""Accounts without a workshop could sign in and do nothing; there are none any more."""

from typing import Any

import django.db.models.deletion
from django.db import migrations, models


def remove_accounts_without_a_workshop(apps: Any, schema_editor: Any) -> None:
    apps.get_model("workshop", "User").objects.filter(workshop=None).delete()


class Migration(migrations.Migration):
    dependencies = [("workshop", "0001_squashed")]

    operations = [
        migrations.RunPython(remove_accounts_without_a_workshop, migrations.RunPython.noop),
        migrations.AlterField(
            model_name="user",
            name="workshop",
            field=models.ForeignKey(
                on_delete=django.db.models.deletion.PROTECT, related_name="people", to="workshop.workshop"
            ),
        ),
    ]
