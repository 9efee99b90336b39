import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    """Changes whose part is typed, taken from elsewhere or brought by the customer."""

    dependencies = [
        ('bikes', '0009_set_ups_look_over_and_status'),
        ('plans', '0004_options'),
    ]

    operations = [
        migrations.AddField(
            model_name='change',
            name='brought',
            field=models.BooleanField(default=False),
        ),
        migrations.AddField(
            model_name='change',
            name='mass_g',
            field=models.PositiveIntegerField(blank=True, null=True),
        ),
        migrations.AddField(
            model_name='change',
            name='origins',
            field=models.JSONField(blank=True, default=dict),
        ),
        migrations.AddField(
            model_name='change',
            name='part',
            field=models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='wanted_by', to='bikes.bikepart'),
        ),
    ]
