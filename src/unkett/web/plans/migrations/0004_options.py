import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    """Plans that are options of one another."""

    dependencies = [
        ('plans', '0003_states_and_what_is_done'),
    ]

    operations = [
        migrations.AddField(
            model_name='plan',
            name='letter',
            field=models.CharField(blank=True, max_length=1),
        ),
        migrations.AddField(
            model_name='plan',
            name='option_of',
            field=models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='options', to='plans.plan'),
        ),
    ]
