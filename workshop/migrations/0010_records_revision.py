from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("workshop", "0009_numbers_days_paper"), ("pours", "0007_tests_become_checks")]

    operations = [migrations.RenameField("preferences", "pours_said", "records_revision")]
