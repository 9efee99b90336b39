import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    """The workshop's own steps stand with its own words; the table stays where it is."""

    dependencies = [
        ('rulebook', '0002_plain_names'),
        ('jobs', '0003_steps_as_facts'),
        ('workshop', '0003_plain_names'),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.CreateModel(
                    name='CustomStep',
                    fields=[
                        ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                        ('code', models.CharField(max_length=160)),
                        ('content', models.JSONField()),
                        ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='own_steps', to='workshop.workshop')),
                    ],
                    options={
                        'db_table': 'jobs_customstep',
                        'ordering': ['code'],
                        'constraints': [models.UniqueConstraint(fields=('workshop', 'code'), name='own_step_once')],
                    },
                ),
            ],
        ),
    ]
