from django.db import migrations, models


class Migration(migrations.Migration):
    """Bikes in the yard counted by an index of their own."""

    dependencies = [
        ('bikes', '0009_set_ups_look_over_and_status'),
        ('workshop', '0005_customers_and_sent_forms'),
    ]

    operations = [
        migrations.RemoveIndex(
            model_name='bike',
            name='bikes_by_verdict',
        ),
        migrations.AddIndex(
            model_name='bike',
            index=models.Index(condition=models.Q(('status', 'here')), fields=['workshop', 'verdict', '-changed', '-id'], name='bikes_here_by_verdict'),
        ),
        migrations.AddIndex(
            model_name='bike',
            index=models.Index(condition=models.Q(('status', 'here'), _negated=True), fields=['workshop'], name='bikes_gone'),
        ),
    ]
