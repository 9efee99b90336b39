import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    """What lies in the bin: box, value, weight, what it is kept with."""

    dependencies = [
        ('bikes', '0010_indexes_of_bikes_here'),
    ]

    operations = [
        migrations.AddField(
            model_name='bikepart',
            name='box',
            field=models.CharField(blank=True, max_length=40),
        ),
        migrations.AddField(
            model_name='bikepart',
            name='kept_with',
            field=models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='pair', to='bikes.bikepart'),
        ),
        migrations.AddField(
            model_name='bikepart',
            name='mass_g',
            field=models.PositiveIntegerField(blank=True, null=True),
        ),
        migrations.AddField(
            model_name='bikepart',
            name='value',
            field=models.DecimalField(blank=True, decimal_places=2, max_digits=9, null=True),
        ),
    ]
