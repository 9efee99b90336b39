from django.db import migrations, models


class Migration(migrations.Migration):
    """What a step was read with."""

    dependencies = [
        ('jobs', '0001_start'),
    ]

    operations = [
        migrations.AddField(
            model_name='jobstep',
            name='instrument',
            field=models.CharField(blank=True, max_length=60),
        ),
    ]
