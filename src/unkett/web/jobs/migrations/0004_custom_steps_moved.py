from django.db import migrations


class Migration(migrations.Migration):
    """The workshop's own steps stand in the rule book now; the table stays where it is."""

    dependencies = [
        ('jobs', '0003_steps_as_facts'),
        ('rulebook', '0003_custom_steps'),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(state_operations=[migrations.DeleteModel(name='CustomStep')]),
    ]
