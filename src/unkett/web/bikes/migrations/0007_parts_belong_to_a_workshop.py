import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    """What 0006 filled in is wanted from now on."""

    dependencies = [("bikes", "0006_parts_for_life")]

    operations = [
        migrations.AlterField(
            model_name="bikepart",
            name="workshop",
            field=models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE, related_name="parts", to="workshop.workshop"
            ),
        ),
        migrations.RemoveField(model_name="bike", name="customer_text"),
        migrations.AddConstraint(
            model_name="bikepart",
            constraint=models.CheckConstraint(
                condition=models.Q(where="on bike", bike__isnull=False)
                | (~models.Q(where="on bike") & models.Q(bike__isnull=True)),
                name="part_on_a_bike_or_off",
            ),
        ),
        migrations.AddIndex(
            model_name="bikepart",
            index=models.Index(fields=["workshop", "where", "kind"], name="parts_by_where"),
        ),
    ]
