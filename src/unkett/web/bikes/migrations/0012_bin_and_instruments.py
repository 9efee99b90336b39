import django.db.models.functions.comparison
import django.db.models.functions.text
from django.db import migrations, models


class Migration(migrations.Migration):
    """Cracked carbon stays scrapped, parts alike to the last figure are found, instruments are named."""

    dependencies = [
        ('bikes', '0011_bin'),
        ('catalogue', '0006_counted'),
        ('workshop', '0007_bridge'),
    ]

    operations = [
        migrations.RemoveIndex(
            model_name='bikepart',
            name='parts_by_where',
        ),
        migrations.AddField(
            model_name='bikepart',
            name='attrs_key',
            field=models.GeneratedField(db_persist=True, expression=django.db.models.functions.text.MD5(django.db.models.functions.comparison.Cast('attrs', models.TextField())), output_field=models.CharField(max_length=32)),
        ),
        migrations.AddField(
            model_name='bikepart',
            name='instruments',
            field=models.JSONField(blank=True, default=dict),
        ),
        migrations.AddField(
            model_name='bikepart',
            name='never_back',
            field=models.BooleanField(default=False),
        ),
        migrations.AlterField(
            model_name='bikepart',
            name='where',
            field=models.CharField(choices=[('on bike', 'On a bike'), ('bench', 'In the bin'), ('aside', 'Set aside with its bike'), ('customer', 'Given to the customer'), ('sold', 'Sold'), ('returned', 'Sent back to where it was bought'), ('missing', 'Not found when the bin was counted'), ('scrapped', 'Scrapped'), ('never', 'Never was: its entry was undone')], default='on bike', max_length=10),
        ),
        migrations.AlterField(
            model_name='move',
            name='from_where',
            field=models.CharField(blank=True, choices=[('on bike', 'On a bike'), ('bench', 'In the bin'), ('aside', 'Set aside with its bike'), ('customer', 'Given to the customer'), ('sold', 'Sold'), ('returned', 'Sent back to where it was bought'), ('missing', 'Not found when the bin was counted'), ('scrapped', 'Scrapped'), ('never', 'Never was: its entry was undone')], max_length=10),
        ),
        migrations.AlterField(
            model_name='move',
            name='to_where',
            field=models.CharField(choices=[('on bike', 'On a bike'), ('bench', 'In the bin'), ('aside', 'Set aside with its bike'), ('customer', 'Given to the customer'), ('sold', 'Sold'), ('returned', 'Sent back to where it was bought'), ('missing', 'Not found when the bin was counted'), ('scrapped', 'Scrapped'), ('never', 'Never was: its entry was undone')], max_length=10),
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
            constraint=models.CheckConstraint(condition=models.Q(('never_back', False), ('where', 'scrapped'), _connector='OR'), name='cracked_stays_scrapped'),
        ),
    ]
