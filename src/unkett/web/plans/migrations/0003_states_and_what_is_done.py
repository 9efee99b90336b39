import django.db.models.deletion
import django.utils.timezone
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    """A plan goes through its states, with who and when; a change that is carried out names the part it fitted."""

    dependencies = [
        ("plans", "0002_bracket_shell_by_its_size"),
        ("bikes", "0007_parts_belong_to_a_workshop"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AlterField(
            model_name="plan",
            name="state",
            field=models.CharField(
                choices=[
                    ("draft", "Draft"),
                    ("quoted", "Quoted"),
                    ("agreed", "Agreed"),
                    ("gathering", "Gathering parts"),
                    ("on stand", "On the stand"),
                    ("checked", "Checked"),
                    ("handed over", "Handed over"),
                    ("dropped", "Dropped"),
                ],
                default="draft",
                max_length=20,
            ),
        ),
        migrations.AddField(
            model_name="plan",
            name="state_at",
            field=models.DateTimeField(default=django.utils.timezone.now),
        ),
        migrations.AddField(
            model_name="plan",
            name="state_by",
            field=models.ForeignKey(
                null=True,
                on_delete=django.db.models.deletion.SET_NULL,
                related_name="+",
                to=settings.AUTH_USER_MODEL,
            ),
        ),
        migrations.AddField(
            model_name="change",
            name="fitted",
            field=models.ForeignKey(
                blank=True,
                null=True,
                on_delete=django.db.models.deletion.SET_NULL,
                related_name="+",
                to="bikes.bikepart",
            ),
        ),
    ]
