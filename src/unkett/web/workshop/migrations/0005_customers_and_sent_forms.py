import django.db.models.deletion
import django.db.models.functions.text
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    """Customers are records; a form that was carried out is known by its one-time token."""

    dependencies = [("workshop", "0004_name_in_the_log")]

    operations = [
        migrations.CreateModel(
            name="Customer",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=120)),
                ("reach", models.CharField(blank=True, max_length=200)),
                ("note", models.TextField(blank=True)),
                ("version", models.PositiveIntegerField(default=1)),
                (
                    "workshop",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="customers", to="workshop.workshop"
                    ),
                ),
            ],
            options={"ordering": ["name", "id"]},
        ),
        migrations.AddConstraint(
            model_name="customer",
            constraint=models.UniqueConstraint(
                models.F("workshop"), django.db.models.functions.text.Lower("name"), name="customer_once"
            ),
        ),
        migrations.CreateModel(
            name="SentForm",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("token", models.UUIDField()),
                ("at", models.DateTimeField(auto_now_add=True)),
                ("went_to", models.CharField(blank=True, max_length=500)),
                (
                    "user",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to=settings.AUTH_USER_MODEL
                    ),
                ),
            ],
        ),
        migrations.AddConstraint(
            model_name="sentform",
            constraint=models.UniqueConstraint(fields=("user", "token"), name="sent_form_once"),
        ),
        migrations.AddIndex(
            model_name="sentform", index=models.Index(fields=["user", "at"], name="sent_forms_by_user")
        ),
    ]
