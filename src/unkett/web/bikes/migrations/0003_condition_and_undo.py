from django.db import migrations, models


class Migration(migrations.Migration):
    """What the rider says, the state of each part, and the bike before its last change."""

    dependencies = [("bikes", "0002_what_was_typed")]

    operations = [
        migrations.AddField(model_name="bike", name="complaint", field=models.TextField(blank=True, default=""), preserve_default=False),
        migrations.AddField(model_name="bike", name="undo", field=models.JSONField(blank=True, null=True)),
        migrations.AddField(model_name="fittedpart", name="condition", field=models.JSONField(blank=True, default=dict)),
    ]
