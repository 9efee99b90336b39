"""The tables as they were in release 0.1.0, in one step instead of one for each change."""

import django.db.models.deletion
import django.utils.timezone
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ("plans", "0001_start"),
        ("plans", "0002_bracket_shell_by_its_size"),
        ("plans", "0003_states_and_what_is_done"),
        ("plans", "0004_options"),
        ("plans", "0005_parts_of_ones_own"),
        ("plans", "0006_quotes_and_ledgers"),
        ("plans", "0007_parts_are_here"),
        ("plans", "0008_people_and_links"),
    ]

    dependencies = [
        ('bikes', '0001_squashed'),
        ('catalogue', '0001_squashed'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Plan',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=120)),
                ('note', models.TextField(blank=True)),
                ('state', models.CharField(choices=[('draft', 'Draft'), ('quoted', 'Quoted'), ('agreed', 'Agreed'), ('gathering', 'Gathering parts'), ('ready', 'Parts are here'), ('on stand', 'On the stand'), ('checked', 'Checked'), ('handed over', 'Handed over'), ('dropped', 'Dropped')], default='draft', max_length=20)),
                ('state_at', models.DateTimeField(default=django.utils.timezone.now)),
                ('letter', models.CharField(blank=True, max_length=1)),
                ('version', models.PositiveIntegerField(default=1)),
                ('changed', models.DateTimeField(default=django.utils.timezone.now)),
                ('bike', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='plans', to='bikes.bike')),
                ('changed_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('made_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('option_of', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='options', to='plans.plan')),
                ('state_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
            ],
            options={
                'ordering': ['-changed', '-id'],
            },
        ),
        migrations.CreateModel(
            name='CustomerLink',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('made', models.DateTimeField(default=django.utils.timezone.now)),
                ('until', models.DateTimeField()),
                ('withdrawn_at', models.DateTimeField(blank=True, null=True)),
                ('answer', models.CharField(blank=True, choices=[('yes', 'Yes, do it'), ('no', 'No, leave it'), ('question', 'I have a question')], max_length=10)),
                ('says', models.CharField(blank=True, max_length=1000)),
                ('answered_at', models.DateTimeField(blank=True, null=True)),
                ('of_version', models.PositiveIntegerField(default=0)),
                ('made_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('plan', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='links', to='plans.plan')),
            ],
            options={
                'ordering': ['-id'],
            },
        ),
        migrations.CreateModel(
            name='Agreement',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('at', models.DateTimeField(default=django.utils.timezone.now)),
                ('content', models.JSONField()),
                ('by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('plan', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='agreements', to='plans.plan')),
            ],
            options={
                'ordering': ['-id'],
            },
        ),
        migrations.CreateModel(
            name='QuoteLine',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('title', models.CharField(max_length=200)),
                ('price', models.DecimalField(decimal_places=2, default=0, max_digits=9)),
                ('minutes', models.PositiveIntegerField(default=0)),
                ('given', models.BooleanField(default=False)),
                ('later', models.BooleanField(default=False)),
                ('agreed_at', models.DateTimeField(blank=True, null=True)),
                ('made', models.DateTimeField(default=django.utils.timezone.now)),
                ('made_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('plan', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='quote_lines', to='plans.plan')),
            ],
            options={
                'ordering': ['id'],
            },
        ),
        migrations.CreateModel(
            name='SaleBook',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('bought', models.DecimalField(decimal_places=2, max_digits=9)),
                ('bought_on', models.DateField()),
                ('minutes', models.PositiveIntegerField(default=0)),
                ('on_market', models.DateField(blank=True, null=True)),
                ('sold', models.DecimalField(blank=True, decimal_places=2, max_digits=9, null=True)),
                ('sold_on', models.DateField(blank=True, null=True)),
                ('version', models.PositiveIntegerField(default=1)),
                ('bike', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='sale_book', to='bikes.bike')),
            ],
        ),
        migrations.CreateModel(
            name='SaleLine',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('goes_in', models.BooleanField(default=True)),
                ('title', models.CharField(max_length=200)),
                ('value', models.DecimalField(decimal_places=2, max_digits=9)),
                ('book', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='lines', to='plans.salebook')),
            ],
            options={
                'ordering': ['id'],
            },
        ),
        migrations.CreateModel(
            name='Change',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('slot', models.CharField(max_length=40)),
                ('empties', models.BooleanField(default=False)),
                ('kind', models.CharField(blank=True, max_length=40)),
                ('name', models.CharField(blank=True, max_length=200)),
                ('attrs', models.JSONField(blank=True, default=dict)),
                ('price', models.DecimalField(decimal_places=2, default=0, max_digits=9)),
                ('mass_g', models.PositiveIntegerField(blank=True, null=True)),
                ('origins', models.JSONField(blank=True, default=dict)),
                ('brought', models.BooleanField(default=False)),
                ('catalogue_part', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='catalogue.cataloguepart')),
                ('fitted', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='bikes.bikepart')),
                ('part', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='wanted_by', to='bikes.bikepart')),
                ('plan', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='changes', to='plans.plan')),
            ],
            options={
                'ordering': ['id'],
                'constraints': [models.UniqueConstraint(fields=('plan', 'slot'), name='slot_changed_once')],
            },
        ),
    ]
