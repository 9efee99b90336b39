from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [
        ('rulebook', '0001_squashed'),
    ]

    operations = [
        migrations.RenameModel(old_name='BenchName', new_name='ShopName'),
    ]
