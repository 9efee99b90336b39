import django.core.validators
import django.db.models.deletion
from django.db import migrations, models


def carry_over(apps, _schema):
    """Every length that was written down, with a first line of its ledger."""
    old, new, moves, lines = (
        apps.get_model(app, name)
        for app, name in (
            ("catalogue", "LineStock"), ("catalogue", "Counted"), ("catalogue", "CountMove"), ("workshop", "LogLine"),
        )
    )
    for row in old.objects.order_by("pk"):
        own = {name: getattr(row, name) for name in ("workshop_id", "sort", "length_mm", "count", "offcut")}
        made = new.objects.create(**own)
        if row.count:
            line = lines.objects.create(
                workshop_id=row.workshop_id, verb="in", about="counted", about_id=made.pk, after={"count": row.count}
            )
            moves.objects.create(counted=made, line=line, change=row.count, left=row.count, why="in")


class Migration(migrations.Migration):
    """Small parts and lengths are counted, each with its ledger."""

    dependencies = [
        ('catalogue', '0005_line_stock'),
        ('workshop', '0007_bridge'),
    ]

    operations = [
        migrations.CreateModel(
            name='Counted',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('sort', models.CharField(max_length=20)),
                ('name', models.CharField(blank=True, max_length=120)),
                ('length_mm', models.FloatField(blank=True, null=True, validators=[django.core.validators.MinValueValidator(1)])),
                ('count', models.PositiveIntegerField(blank=True, null=True)),
                ('offcut', models.BooleanField(default=False)),
                ('box', models.CharField(blank=True, max_length=40)),
                ('value', models.DecimalField(blank=True, decimal_places=2, max_digits=9, null=True)),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='counted', to='workshop.workshop')),
            ],
            options={
                'ordering': ['sort', 'name', 'length_mm', 'id'],
            },
        ),
        migrations.CreateModel(
            name='CountMove',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('change', models.IntegerField()),
                ('left', models.PositiveIntegerField()),
                ('why', models.CharField(max_length=10)),
                ('note', models.CharField(blank=True, max_length=200)),
                ('counted', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='moves', to='catalogue.counted')),
                ('line', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='workshop.logline')),
            ],
            options={
                'ordering': ['id'],
            },
        ),
        migrations.RunPython(carry_over, migrations.RunPython.noop),
        migrations.DeleteModel(
            name='LineStock',
        ),
        migrations.AddIndex(
            model_name='counted',
            index=models.Index(fields=['workshop', 'box'], name='counted_by_box'),
        ),
    ]
