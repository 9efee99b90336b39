from django.db import migrations, models


class Migration(migrations.Migration):
    """A plan whose ordered parts are all here."""

    dependencies = [
        ('plans', '0006_quotes_and_ledgers'),
    ]

    operations = [
        migrations.AlterField(
            model_name='plan',
            name='state',
            field=models.CharField(choices=[('draft', 'Draft'), ('quoted', 'Quoted'), ('agreed', 'Agreed'), ('gathering', 'Gathering parts'), ('ready', 'Parts are here'), ('on stand', 'On the stand'), ('checked', 'Checked'), ('handed over', 'Handed over'), ('dropped', 'Dropped')], default='draft', max_length=20),
        ),
    ]
