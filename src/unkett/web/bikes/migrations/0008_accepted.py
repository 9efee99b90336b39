from django.db import migrations, models


class Migration(migrations.Migration):
    """What a person took as it is, with who, why and until when."""

    dependencies = [("bikes", "0007_parts_belong_to_a_workshop")]

    operations = [
        migrations.AddField(model_name="bike", name="accepted", field=models.JSONField(blank=True, default=list)),
        migrations.AddField(
            model_name="bike", name="accepted_until", field=models.DateField(blank=True, null=True)
        ),
    ]
