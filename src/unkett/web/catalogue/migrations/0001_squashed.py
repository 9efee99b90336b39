"""The tables as they were in release 0.1.0, in one step instead of one for each change."""

import django.core.validators
import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ("catalogue", "0001_start"),
        ("catalogue", "0002_fit_classes"),
        ("catalogue", "0003_version_on_the_workshop"),
        ("catalogue", "0004_parts_are_written"),
        ("catalogue", "0005_line_stock"),
        ("catalogue", "0006_counted"),
    ]

    dependencies = [
        ('workshop', '0001_squashed'),
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
        migrations.CreateModel(
            name='FitClass',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('kind', models.CharField(max_length=40)),
                ('key', models.CharField(max_length=64)),
                ('attrs', models.JSONField(default=dict)),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='+', to='workshop.workshop')),
            ],
        ),
        migrations.CreateModel(
            name='CataloguePart',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('kind', models.CharField(max_length=40)),
                ('name', models.CharField(max_length=200)),
                ('maker', models.CharField(blank=True, max_length=80)),
                ('attrs', models.JSONField(default=dict)),
                ('price', models.DecimalField(decimal_places=2, max_digits=9, validators=[django.core.validators.MinValueValidator(0)])),
                ('mass_g', models.PositiveIntegerField(blank=True, null=True)),
                ('place', models.CharField(blank=True, max_length=80)),
                ('days', models.PositiveSmallIntegerField(default=0)),
                ('retired', models.BooleanField(default=False)),
                ('version', models.PositiveIntegerField(default=1)),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='catalogue', to='workshop.workshop')),
                ('fit_class', models.ForeignKey(db_index=False, null=True, on_delete=django.db.models.deletion.PROTECT, related_name='parts', to='catalogue.fitclass')),
            ],
        ),
        migrations.AddIndex(
            model_name='counted',
            index=models.Index(fields=['workshop', 'box'], name='counted_by_box'),
        ),
        migrations.AddConstraint(
            model_name='fitclass',
            constraint=models.UniqueConstraint(fields=('workshop', 'kind', 'key'), name='fit_class_once'),
        ),
        migrations.AddIndex(
            model_name='cataloguepart',
            index=models.Index(fields=['workshop', 'kind', 'price', 'id'], name='catalogue_by_price'),
        ),
        migrations.AddIndex(
            model_name='cataloguepart',
            index=models.Index(fields=['workshop', 'kind', 'mass_g', 'id'], name='catalogue_by_mass'),
        ),
        migrations.AddIndex(
            model_name='cataloguepart',
            index=models.Index(fields=['workshop', 'kind', 'place', 'id'], name='catalogue_by_place'),
        ),
        migrations.AddIndex(
            model_name='cataloguepart',
            index=models.Index(fields=['fit_class', 'price', 'id'], name='catalogue_fit_price'),
        ),
        migrations.AddConstraint(
            model_name='cataloguepart',
            constraint=models.CheckConstraint(condition=models.Q(('price__gte', 0)), name='catalogue_price_not_negative'),
        ),
        migrations.AddConstraint(
            model_name='cataloguepart',
            constraint=models.UniqueConstraint(fields=('workshop', 'kind', 'maker', 'name'), name='catalogue_once'),
        ),
    ]
