from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [
        ('jobs', '0001_squashed'),
    ]

    operations = [
        migrations.RenameModel(old_name='Board', new_name='Schedule'),
        migrations.RenameModel(old_name='StepOfOurs', new_name='CustomStep'),
    ]
