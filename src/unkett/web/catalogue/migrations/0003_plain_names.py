from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [
        ('catalogue', '0002_what_classes_were_made_from'),
    ]

    operations = [
        migrations.RenameModel(old_name='Counted', new_name='StockItem'),
    ]
