"""The tables as they were in release 0.1.0, in one step instead of one for each change."""

import django.db.models.deletion
import django.db.models.functions.comparison
import django.db.models.functions.text
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ("bikes", "0001_start"),
        ("bikes", "0002_what_was_typed"),
        ("bikes", "0003_condition_and_undo"),
        ("bikes", "0004_verdict_kept"),
        ("bikes", "0005_empty_slots"),
        ("bikes", "0006_parts_for_life"),
        ("bikes", "0007_parts_belong_to_a_workshop"),
        ("bikes", "0008_accepted"),
        ("bikes", "0009_set_ups_look_over_and_status"),
        ("bikes", "0010_indexes_of_bikes_here"),
        ("bikes", "0011_bin"),
        ("bikes", "0012_bin_and_instruments"),
    ]

    dependencies = [
        ('catalogue', '0001_squashed'),
        ('workshop', '0001_squashed'),
    ]

    operations = [
        migrations.CreateModel(
            name='Bike',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('status', models.CharField(choices=[('here', 'Here'), ('away', 'Put away'), ('removed', 'Removed')], default='here', max_length=8)),
                ('name', models.CharField(max_length=120)),
                ('use', models.CharField(blank=True, max_length=20)),
                ('frame_number', models.CharField(blank=True, max_length=60)),
                ('complaint', models.TextField(blank=True)),
                ('wish', models.TextField(blank=True)),
                ('rider', models.JSONField(blank=True, default=dict)),
                ('lever_hand', models.JSONField(blank=True, default=dict)),
                ('empty', models.JSONField(blank=True, default=list)),
                ('extra', models.JSONField(blank=True, default=dict)),
                ('parts_extra', models.JSONField(blank=True, default=dict)),
                ('looked', models.JSONField(blank=True, default=dict)),
                ('kept', models.JSONField(blank=True, default=dict)),
                ('accepted', models.JSONField(blank=True, default=list)),
                ('accepted_until', models.DateField(blank=True, null=True)),
                ('undo', models.JSONField(blank=True, null=True)),
                ('version', models.PositiveIntegerField(default=1)),
                ('changed', models.DateTimeField(auto_now=True)),
                ('verdict', models.CharField(default='unmeasured', max_length=16)),
                ('standing', models.JSONField(blank=True, default=dict)),
                ('judged_by', models.CharField(blank=True, max_length=64)),
                ('customer', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='bikes', to='workshop.customer')),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='bikes', to='workshop.workshop')),
            ],
            options={
                'ordering': ['name', 'id'],
            },
        ),
        migrations.CreateModel(
            name='BikePart',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('where', models.CharField(choices=[('on bike', 'On a bike'), ('bench', 'In the bin'), ('aside', 'Set aside with its bike'), ('customer', 'Given to the customer'), ('sold', 'Sold'), ('returned', 'Sent back to where it was bought'), ('missing', 'Not found when the bin was counted'), ('scrapped', 'Scrapped'), ('never', 'Never was: its entry was undone')], default='on bike', max_length=10)),
                ('slot', models.CharField(blank=True, max_length=40)),
                ('kind', models.CharField(max_length=40)),
                ('name', models.CharField(blank=True, max_length=200)),
                ('attrs', models.JSONField(blank=True, default=dict)),
                ('origins', models.JSONField(blank=True, default=dict)),
                ('also', models.JSONField(blank=True, default=list)),
                ('extra', models.JSONField(blank=True, default=dict)),
                ('condition', models.JSONField(blank=True, default=dict)),
                ('instruments', models.JSONField(blank=True, default=dict)),
                ('attrs_key', models.GeneratedField(db_persist=True, expression=django.db.models.functions.text.MD5(django.db.models.functions.comparison.Cast('attrs', models.TextField())), output_field=models.CharField(max_length=32))),
                ('never_back', models.BooleanField(default=False)),
                ('box', models.CharField(blank=True, max_length=40)),
                ('value', models.DecimalField(blank=True, decimal_places=2, max_digits=9, null=True)),
                ('mass_g', models.PositiveIntegerField(blank=True, null=True)),
                ('bike', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.CASCADE, related_name='fitted', to='bikes.bike')),
                ('catalogue_part', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to='catalogue.cataloguepart')),
                ('kept_with', models.ForeignKey(blank=True, null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='pair', to='bikes.bikepart')),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='parts', to='workshop.workshop')),
            ],
            options={
                'db_table': 'bikes_fittedpart',
            },
        ),
        migrations.CreateModel(
            name='Move',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('from_where', models.CharField(blank=True, choices=[('on bike', 'On a bike'), ('bench', 'In the bin'), ('aside', 'Set aside with its bike'), ('customer', 'Given to the customer'), ('sold', 'Sold'), ('returned', 'Sent back to where it was bought'), ('missing', 'Not found when the bin was counted'), ('scrapped', 'Scrapped'), ('never', 'Never was: its entry was undone')], max_length=10)),
                ('from_slot', models.CharField(blank=True, max_length=40)),
                ('to_where', models.CharField(choices=[('on bike', 'On a bike'), ('bench', 'In the bin'), ('aside', 'Set aside with its bike'), ('customer', 'Given to the customer'), ('sold', 'Sold'), ('returned', 'Sent back to where it was bought'), ('missing', 'Not found when the bin was counted'), ('scrapped', 'Scrapped'), ('never', 'Never was: its entry was undone')], max_length=10)),
                ('to_slot', models.CharField(blank=True, max_length=40)),
                ('before', models.JSONField(null=True)),
                ('after', models.JSONField()),
                ('from_bike', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='gave', to='bikes.bike')),
                ('line', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='moves', to='workshop.logline')),
                ('part', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='moves', to='bikes.bikepart')),
                ('to_bike', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='got', to='bikes.bike')),
            ],
            options={
                'ordering': ['id'],
            },
        ),
        migrations.CreateModel(
            name='Picture',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('about', models.CharField(max_length=40)),
                ('content', models.BinaryField()),
                ('bike', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='pictures', to='bikes.bike')),
            ],
        ),
        migrations.CreateModel(
            name='SetUp',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('name', models.CharField(max_length=80)),
                ('bike', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='set_ups', to='bikes.bike')),
            ],
            options={
                'ordering': ['name', 'id'],
            },
        ),
        migrations.CreateModel(
            name='SetUpPart',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('slot', models.CharField(max_length=40)),
                ('part', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='places', to='bikes.bikepart')),
                ('set_up', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='places', to='bikes.setup')),
            ],
            options={
                'ordering': ['id'],
            },
        ),
        migrations.AddField(
            model_name='setup',
            name='parts',
            field=models.ManyToManyField(related_name='set_ups', through='bikes.SetUpPart', to='bikes.bikepart'),
        ),
        migrations.AddIndex(
            model_name='bike',
            index=models.Index(condition=models.Q(('status', 'here')), fields=['workshop', 'verdict', '-changed', '-id'], name='bikes_here_by_verdict'),
        ),
        migrations.AddIndex(
            model_name='bike',
            index=models.Index(condition=models.Q(('status', 'here'), _negated=True), fields=['workshop'], name='bikes_gone'),
        ),
        migrations.AddIndex(
            model_name='bike',
            index=models.Index(fields=['workshop', '-changed', '-id'], name='bikes_by_change'),
        ),
        migrations.AddIndex(
            model_name='bike',
            index=models.Index(fields=['workshop', 'judged_by'], name='bikes_judged_by'),
        ),
        migrations.AddIndex(
            model_name='bikepart',
            index=models.Index(fields=['workshop', 'where', 'kind', 'attrs_key'], name='parts_by_where'),
        ),
        migrations.AddIndex(
            model_name='bikepart',
            index=models.Index(condition=models.Q(('where', 'bench')), fields=['workshop', 'box'], name='parts_by_box'),
        ),
        migrations.AddConstraint(
            model_name='bikepart',
            constraint=models.UniqueConstraint(fields=('bike', 'slot'), name='slot_filled_once'),
        ),
        migrations.AddConstraint(
            model_name='bikepart',
            constraint=models.CheckConstraint(condition=models.Q(models.Q(('bike__isnull', False), ('where', 'on bike')), models.Q(models.Q(('where', 'on bike'), _negated=True), ('bike__isnull', True)), _connector='OR'), name='part_on_a_bike_or_off'),
        ),
        migrations.AddConstraint(
            model_name='bikepart',
            constraint=models.CheckConstraint(condition=models.Q(('never_back', False), ('where', 'scrapped'), _connector='OR'), name='cracked_stays_scrapped'),
        ),
        migrations.AddConstraint(
            model_name='picture',
            constraint=models.UniqueConstraint(fields=('bike', 'about'), name='picture_of_a_tick_once'),
        ),
        migrations.AddConstraint(
            model_name='setuppart',
            constraint=models.UniqueConstraint(fields=('set_up', 'slot'), name='set_up_slot_once'),
        ),
        migrations.AddConstraint(
            model_name='setup',
            constraint=models.UniqueConstraint(fields=('bike', 'name'), name='set_up_named_once'),
        ),
    ]
