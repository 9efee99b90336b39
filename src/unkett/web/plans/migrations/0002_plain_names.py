from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [
        ('plans', '0001_squashed'),
    ]

    operations = [
        migrations.RenameModel(old_name='QuoteLine', new_name='QuoteItem'),
    ]
