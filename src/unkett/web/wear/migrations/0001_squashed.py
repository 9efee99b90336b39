"""The tables as they were in release 0.1.0, in one step instead of one for each change."""

import django.db.models.deletion
import django.utils.timezone
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ("wear", "0001_start"),
    ]

    dependencies = [
        ('bikes', '0001_squashed'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='WearReading',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('slot', models.CharField(max_length=40)),
                ('sort', models.CharField(max_length=40)),
                ('value', models.FloatField()),
                ('km', models.FloatField(blank=True, null=True)),
                ('on', models.DateField(default=django.utils.timezone.localdate)),
                ('instrument', models.CharField(blank=True, max_length=60)),
                ('struck', models.BooleanField(default=False)),
                ('latest', models.BooleanField(default=True)),
                ('worn', models.BooleanField(default=False)),
                ('due', models.DateField(blank=True, null=True)),
                ('bike', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='wear', to='bikes.bike')),
                ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('part', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='wear', to='bikes.bikepart')),
            ],
            options={
                'ordering': ['on', 'id'],
                'indexes': [models.Index(fields=['bike', 'part', 'sort'], name='wear_of_a_part'), models.Index(condition=models.Q(('latest', True)), fields=['worn', 'due'], name='wear_due')],
            },
        ),
    ]
