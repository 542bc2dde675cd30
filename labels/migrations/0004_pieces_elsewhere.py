from django.db import migrations


class Migration(migrations.Migration):
    """Pieces and people are kept by an app of their own; their tables stay as they are."""

    dependencies = [("labels", "0003_dates_and_code")]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[migrations.DeleteModel("Handout"), migrations.DeleteModel("Person")]
        )
    ]
