"""The tables as they were in release 0.1.0, in one step instead of one for each change."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ("rulebook", "0001_start"),
    ]

    dependencies = [
        ('workshop', '0001_squashed'),
    ]

    operations = [
        migrations.CreateModel(
            name='BenchName',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('code', models.CharField(max_length=60)),
                ('name', models.CharField(max_length=60)),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='bench_names', to='workshop.workshop')),
            ],
            options={
                'ordering': ['code', 'name'],
                'constraints': [models.UniqueConstraint(fields=('workshop', 'code', 'name'), name='bench_name_once')],
            },
        ),
    ]
