import django.db.models.deletion
import django.utils.timezone
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    """Quote lines, agreed quotes, and the ledgers of bikes that are built up to be sold."""

    dependencies = [
        ('bikes', '0010_indexes_of_bikes_here'),
        ('plans', '0005_parts_of_ones_own'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
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
    ]
