from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [
        ('workshop', '0002_everyone_has_a_workshop'),
        ('bikes', '0003_complaints'),
    ]

    operations = [
        migrations.RenameModel(old_name='LogLine', new_name='LogEntry'),
        migrations.RenameModel(old_name='SecurityLine', new_name='SecurityEvent'),
    ]
