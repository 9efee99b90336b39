from django.db import migrations, models


class Migration(migrations.Migration):
    """What was typed under a calculation and belongs to no part is kept with the bike."""

    dependencies = [("bikes", "0001_start")]

    operations = [
        migrations.AddField(model_name="bike", name="kept", field=models.JSONField(blank=True, default=dict)),
    ]
