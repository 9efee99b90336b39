from django.db import migrations, models


class Migration(migrations.Migration):
    """Parts are changed by several hands and retired."""

    dependencies = [("catalogue", "0003_version_on_the_workshop")]

    operations = [
        migrations.AddField(model_name="cataloguepart", name="retired", field=models.BooleanField(default=False)),
        migrations.AddField(
            model_name="cataloguepart", name="version", field=models.PositiveIntegerField(default=1)
        ),
    ]
