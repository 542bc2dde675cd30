from django.db import migrations


class Migration(migrations.Migration):
    """Ladders are kept by the app that learns from them; their tables stay as they are."""

    dependencies = [("pours", "0011_filled")]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[migrations.DeleteModel("LadderCup"), migrations.DeleteModel("LadderTest")]
        )
    ]
