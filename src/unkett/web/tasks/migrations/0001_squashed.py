"""The tables as they were in release 0.1.0, in one step instead of one for each change."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ("tasks", "0001_task"),
        ("tasks", "0002_tries"),
    ]

    dependencies = [
        ('workshop', '0001_squashed'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Task',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('sort', models.CharField(max_length=20)),
                ('about_id', models.BigIntegerField()),
                ('asked', models.JSONField(default=dict)),
                ('found', models.JSONField(null=True)),
                ('says', models.CharField(blank=True, max_length=300)),
                ('state', models.CharField(choices=[('waiting', 'Waiting'), ('running', 'Running'), ('done', 'Done'), ('stopped', 'Stopped'), ('failed', 'Failed')], default='waiting', max_length=10)),
                ('tries', models.PositiveSmallIntegerField(default=0)),
                ('stop_wanted', models.BooleanField(default=False)),
                ('made', models.DateTimeField(auto_now_add=True)),
                ('started', models.DateTimeField(null=True)),
                ('ended', models.DateTimeField(null=True)),
                ('made_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='tasks', to='workshop.workshop')),
            ],
            options={
                'indexes': [models.Index(fields=['workshop', 'sort', 'about_id', '-id'], name='tasks_about'), models.Index(condition=models.Q(('state__in', ('waiting', 'running'))), fields=['id'], name='tasks_going_on')],
            },
        ),
    ]
