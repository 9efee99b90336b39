from django.db import migrations, models


class Migration(migrations.Migration):
    """Everybody reads figures in the units they prefer."""

    dependencies = [("workshop", "0002_catalogue_version")]

    operations = [
        migrations.AddField(model_name="user", name="units", field=models.JSONField(blank=True, default=dict)),
    ]
