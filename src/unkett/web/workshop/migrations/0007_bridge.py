from django.db import migrations, models


class Migration(migrations.Migration):
    """The port of the bench's instruments."""

    dependencies = [
        ('workshop', '0006_roles'),
    ]

    operations = [
        migrations.AddField(
            model_name='user',
            name='bridge_port',
            field=models.PositiveIntegerField(blank=True, null=True),
        ),
    ]
