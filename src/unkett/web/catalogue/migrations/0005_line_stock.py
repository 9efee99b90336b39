import django.core.validators
import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    """Lengths that lines are cut from."""

    dependencies = [
        ('catalogue', '0004_parts_are_written'),
        ('workshop', '0005_customers_and_sent_forms'),
    ]

    operations = [
        migrations.CreateModel(
            name='LineStock',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('sort', models.CharField(max_length=20)),
                ('length_mm', models.FloatField(validators=[django.core.validators.MinValueValidator(1)])),
                ('count', models.PositiveIntegerField(blank=True, null=True)),
                ('offcut', models.BooleanField(default=False)),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='line_stock', to='workshop.workshop')),
            ],
            options={
                'ordering': ['sort', 'length_mm', 'id'],
            },
        ),
    ]
