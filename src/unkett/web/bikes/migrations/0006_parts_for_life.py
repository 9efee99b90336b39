import django.db.models.deletion
from django.db import migrations, models

WHERE = [
    ("on bike", "On a bike"),
    ("bench", "On the bench"),
    ("customer", "Given to the customer"),
    ("scrapped", "Scrapped"),
    ("never", "Never was: its entry was undone"),
]


def belong(apps, schema_editor):
    """Every part belongs to the workshop of its bike, and every bike to a customer that is a record."""
    Bike, BikePart = apps.get_model("bikes", "Bike"), apps.get_model("bikes", "BikePart")
    Customer = apps.get_model("workshop", "Customer")
    BikePart.objects.update(
        workshop_id=models.Subquery(
            Bike.objects.filter(pk=models.OuterRef("bike_id")).values("workshop_id")[:1]
        )
    )
    known = {}
    for bike in Bike.objects.exclude(customer_text="").only("workshop_id", "customer_text"):
        name = " ".join(bike.customer_text.split())
        if not name:
            continue
        key = (bike.workshop_id, name.lower())
        if key not in known:
            known[key] = Customer.objects.create(workshop_id=bike.workshop_id, name=name)
        Bike.objects.filter(pk=bike.pk).update(customer=known[key])
    Bike.objects.exclude(undo=None).update(undo=None)


class Migration(migrations.Migration):
    """A part is one row for life, with a ledger of what happened to it; a customer is a record.

    What could be undone before is settled: it was kept without the parts' identity.
    """

    dependencies = [
        ("bikes", "0005_empty_slots"),
        ("plans", "0002_bracket_shell_by_its_size"),  # it looks for the parts under their old name
        ("workshop", "0005_customers_and_sent_forms"),
    ]

    operations = [
        migrations.AlterModelTable(name="fittedpart", table="bikes_fittedpart"),
        migrations.RenameModel(old_name="FittedPart", new_name="BikePart"),
        migrations.AddField(
            model_name="bikepart",
            name="workshop",
            field=models.ForeignKey(
                null=True, on_delete=django.db.models.deletion.CASCADE, related_name="parts", to="workshop.workshop"
            ),
        ),
        migrations.AddField(
            model_name="bikepart",
            name="where",
            field=models.CharField(
                choices=WHERE,
                default="on bike",
                max_length=10,
            ),
        ),
        migrations.AlterField(
            model_name="bikepart",
            name="bike",
            field=models.ForeignKey(
                blank=True,
                null=True,
                on_delete=django.db.models.deletion.CASCADE,
                related_name="fitted",
                to="bikes.bike",
            ),
        ),
        migrations.AlterField(
            model_name="bikepart", name="slot", field=models.CharField(blank=True, max_length=40)
        ),
        migrations.RenameField(model_name="bike", old_name="customer", new_name="customer_text"),
        migrations.AddField(
            model_name="bike",
            name="customer",
            field=models.ForeignKey(
                blank=True,
                null=True,
                on_delete=django.db.models.deletion.SET_NULL,
                related_name="bikes",
                to="workshop.customer",
            ),
        ),
        migrations.CreateModel(
            name="Move",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("from_where", models.CharField(blank=True, choices=WHERE, max_length=10)),
                ("from_slot", models.CharField(blank=True, max_length=40)),
                ("to_where", models.CharField(choices=WHERE, max_length=10)),
                ("to_slot", models.CharField(blank=True, max_length=40)),
                ("before", models.JSONField(null=True)),
                ("after", models.JSONField()),
                (
                    "from_bike",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="gave",
                        to="bikes.bike",
                    ),
                ),
                (
                    "line",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="moves", to="workshop.logline"
                    ),
                ),
                (
                    "part",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="moves", to="bikes.bikepart"
                    ),
                ),
                (
                    "to_bike",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.SET_NULL,
                        related_name="got",
                        to="bikes.bike",
                    ),
                ),
            ],
            options={"ordering": ["id"]},
        ),
        migrations.RunPython(belong, migrations.RunPython.noop),
    ]
