"""Call what the yard shows of a bike's check its summary."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("bikes", "0004_settled_needs")]
    operations = [migrations.RenameField(model_name="bike", old_name="standing", new_name="summary")]
