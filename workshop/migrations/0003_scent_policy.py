from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("workshop", "0002_plan")]

    operations = [migrations.RenameField("preferences", "school", "scent_policy")]
