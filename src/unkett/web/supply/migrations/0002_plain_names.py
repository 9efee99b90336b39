from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [
        ('supply', '0001_squashed'),
    ]

    operations = [
        migrations.RenameModel(old_name='OrderLine', new_name='OrderItem'),
    ]
