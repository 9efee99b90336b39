from django.db import migrations, models


class Migration(migrations.Migration):
    """How often a piece of work was taken up."""

    dependencies = [
        ('tasks', '0001_task'),
    ]

    operations = [
        migrations.AddField(
            model_name='task',
            name='tries',
            field=models.PositiveSmallIntegerField(default=0),
        ),
    ]
