from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("workshop", "0003_units_somebody_reads")]

    operations = [
        migrations.AddField(
            model_name="logline",
            name="about_name",
            field=models.CharField(blank=True, max_length=200),
        ),
    ]
