import django.db.models.deletion
import django.utils.timezone
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    """A link for a customer."""

    dependencies = [
        ('plans', '0007_parts_are_here'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
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
    ]
