from django.db import migrations, models


class Migration(migrations.Migration):
    """What somebody looked at and found empty is kept with the bike; x_ keys beside the slots are carried along."""

    dependencies = [("bikes", "0004_verdict_kept")]

    operations = [
        migrations.AddField(model_name="bike", name="empty", field=models.JSONField(blank=True, default=list)),
        migrations.AddField(model_name="bike", name="parts_extra", field=models.JSONField(blank=True, default=dict)),
    ]
