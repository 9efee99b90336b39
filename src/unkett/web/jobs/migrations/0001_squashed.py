"""The tables as they were in release 0.1.0, in one step instead of one for each change."""

import datetime
import django.db.models.deletion
import django.utils.timezone
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    replaces = [
        ("jobs", "0001_start"),
        ("jobs", "0002_bin_and_instruments"),
    ]

    dependencies = [
        ('bikes', '0001_squashed'),
        ('plans', '0001_squashed'),
        ('workshop', '0001_squashed'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name='Board',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('stands', models.PositiveIntegerField(default=2)),
                ('first_day', models.DateField(blank=True, null=True)),
                ('made', models.DateTimeField(blank=True, null=True)),
                ('content', models.JSONField(blank=True, default=dict)),
                ('before', models.JSONField(blank=True, default=dict)),
                ('pins', models.JSONField(blank=True, default=dict)),
                ('workshop', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='board', to='workshop.workshop')),
            ],
        ),
        migrations.CreateModel(
            name='Job',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('made', models.DateTimeField(default=django.utils.timezone.now)),
                ('promised', models.DateTimeField(blank=True, null=True)),
                ('parts_here', models.DateField(blank=True, null=True)),
                ('figures', models.JSONField(blank=True, default=list)),
                ('later', models.TextField(blank=True)),
                ('kept', models.TextField(blank=True)),
                ('ended', models.DateTimeField(blank=True, null=True)),
                ('version', models.PositiveIntegerField(default=1)),
                ('checked_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('made_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('plan', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='job', to='plans.plan')),
            ],
        ),
        migrations.CreateModel(
            name='JobStep',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('key', models.CharField(max_length=160)),
                ('place', models.PositiveIntegerField()),
                ('content', models.JSONField()),
                ('done_at', models.DateTimeField(blank=True, null=True)),
                ('skipped', models.CharField(blank=True, max_length=200)),
                ('reading', models.FloatField(blank=True, null=True)),
                ('instrument', models.CharField(blank=True, max_length=60)),
                ('first_reading', models.FloatField(blank=True, null=True)),
                ('countersigned_at', models.DateTimeField(blank=True, null=True)),
                ('wants_countersign', models.BooleanField(default=False)),
                ('countersigned_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('done_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('holder', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('job', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='steps', to='jobs.job')),
            ],
            options={
                'ordering': ['place'],
            },
        ),
        migrations.CreateModel(
            name='OutsideWork',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('what', models.CharField(max_length=200)),
                ('cost', models.DecimalField(decimal_places=2, default=0, max_digits=9)),
                ('days', models.PositiveIntegerField(default=0)),
                ('since', models.DateField(default=django.utils.timezone.localdate)),
                ('back_at', models.DateTimeField(blank=True, null=True)),
                ('job', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='outside', to='jobs.job')),
            ],
            options={
                'ordering': ['id'],
            },
        ),
        migrations.CreateModel(
            name='StepOfOurs',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('code', models.CharField(max_length=160)),
                ('content', models.JSONField()),
                ('workshop', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='own_steps', to='workshop.workshop')),
            ],
            options={
                'ordering': ['code'],
            },
        ),
        migrations.CreateModel(
            name='StepPicture',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('content', models.BinaryField()),
                ('step', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='picture', to='jobs.jobstep')),
            ],
        ),
        migrations.CreateModel(
            name='WorkHours',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('days', models.CharField(default='12345', max_length=7)),
                ('begins', models.TimeField(default=datetime.time(9, 0))),
                ('pause_from', models.TimeField(default=datetime.time(13, 0))),
                ('pause_to', models.TimeField(default=datetime.time(14, 0))),
                ('ends', models.TimeField(default=datetime.time(18, 0))),
                ('user', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, related_name='work_hours', to=settings.AUTH_USER_MODEL)),
            ],
        ),
        migrations.CreateModel(
            name='FollowUp',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('what', models.CharField(max_length=200)),
                ('due', models.DateField()),
                ('done_at', models.DateTimeField(blank=True, null=True)),
                ('bike', models.ForeignKey(on_delete=django.db.models.deletion.CASCADE, related_name='follow_ups', to='bikes.bike')),
                ('done_by', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='+', to=settings.AUTH_USER_MODEL)),
                ('job', models.ForeignKey(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name='follow_ups', to='jobs.job')),
            ],
            options={
                'ordering': ['due', 'id'],
                'indexes': [models.Index(fields=['done_at', 'due'], name='follow_ups_due')],
            },
        ),
        migrations.AddConstraint(
            model_name='jobstep',
            constraint=models.UniqueConstraint(fields=('job', 'key'), name='step_once_in_a_job'),
        ),
        migrations.AddConstraint(
            model_name='stepofours',
            constraint=models.UniqueConstraint(fields=('workshop', 'code'), name='own_step_once'),
        ),
    ]
