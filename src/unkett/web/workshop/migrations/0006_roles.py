from django.db import migrations, models


class Migration(migrations.Migration):
    """Front desk and apprentice."""

    dependencies = [
        ('workshop', '0005_customers_and_sent_forms'),
    ]

    operations = [
        migrations.AlterField(
            model_name='user',
            name='role',
            field=models.CharField(choices=[('owner', 'Owner'), ('mechanic', 'Mechanic'), ('front desk', 'Front desk'), ('apprentice', 'Apprentice')], default='mechanic', max_length=20),
        ),
    ]
