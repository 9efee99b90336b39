from django.db import migrations, models


class Migration(migrations.Migration):
    """The verdict is kept with the bike, so that the yard lists thousands."""

    dependencies = [("bikes", "0003_condition_and_undo"), ("workshop", "0003_units_somebody_reads")]

    operations = [
        migrations.AddField(model_name="bike", name="verdict", field=models.CharField(default="unmeasured", max_length=16)),
        migrations.AddField(model_name="bike", name="standing", field=models.JSONField(blank=True, default=dict)),
        migrations.AddField(model_name="bike", name="judged_by", field=models.CharField(blank=True, default="", max_length=64), preserve_default=False),
        migrations.AddIndex(
            model_name="bike",
            index=models.Index(fields=["workshop", "verdict", "-changed", "-id"], name="bikes_by_verdict"),
        ),
        migrations.AddIndex(
            model_name="bike", index=models.Index(fields=["workshop", "-changed", "-id"], name="bikes_by_change")
        ),
        migrations.AddIndex(
            model_name="bike", index=models.Index(fields=["workshop", "judged_by"], name="bikes_judged_by")
        ),
    ]
