import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    """Set-ups, what a look-over found, and bikes that are put away or removed."""

    dependencies = [
        ('bikes', '0008_accepted'),
    ]

    operations = [
        migrations.AddField(
            model_name='bike',
            name='looked',
            field=models.JSONField(blank=True, default=dict),
        ),
        migrations.AddField(
            model_name='bike',
            name='status',
            field=models.CharField(choices=[('here', 'Here'), ('away', 'Put away'), ('removed', 'Removed')], default='here', max_length=8),
        ),
        migrations.AlterField(
            model_name='bikepart',
            name='where',
            field=models.CharField(choices=[('on bike', 'On a bike'), ('bench', 'On the bench'), ('aside', 'Set aside with its bike'), ('customer', 'Given to the customer'), ('scrapped', 'Scrapped'), ('never', 'Never was: its entry was undone')], default='on bike', max_length=10),
        ),
        migrations.AlterField(
            model_name='move',
            name='from_where',
            field=models.CharField(blank=True, choices=[('on bike', 'On a bike'), ('bench', 'On the bench'), ('aside', 'Set aside with its bike'), ('customer', 'Given to the customer'), ('scrapped', 'Scrapped'), ('never', 'Never was: its entry was undone')], max_length=10),
        ),
        migrations.AlterField(
            model_name='move',
            name='to_where',
            field=models.CharField(choices=[('on bike', 'On a bike'), ('bench', 'On the bench'), ('aside', 'Set aside with its bike'), ('customer', 'Given to the customer'), ('scrapped', 'Scrapped'), ('never', 'Never was: its entry was undone')], max_length=10),
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
        migrations.CreateModel(
            name='Picture',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('about', models.CharField(max_length=40)),
                ('content', models.BinaryField()),
                ('bike', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='pictures', to='bikes.bike')),
            ],
            options={
                'constraints': [models.UniqueConstraint(fields=('bike', 'about'), name='picture_of_a_tick_once')],
            },
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
