"""The one test that a pour had becomes its first check. Its day was not kept: that is said of it."""

from datetime import date, timedelta

from django.db import migrations

FOLLOW_UPS = ((1, "a day"), (3, "three days"), (14, "two weeks"), (91, "three months"))


def tests_become_checks(apps, schema_editor):
    pours, checks, follow_ups = (apps.get_model("pours", name) for name in ("Pour", "Check", "FollowUp"))
    for pour in pours.objects.filter(measured__isnull=False):
        checks.objects.create(
            pour=pour,
            checked_on=pour.poured_on,
            is_day_known=False,
            method=pour.method,
            rod_mm=pour.rod_mm,
            readings=[] if pour.press_g is None else [pour.press_g],
            thumb=pour.thumb,
            test_c=21.0 if pour.test_c is None else pour.test_c,
            predicted=pour.predicted,
            predicted_sigma=pour.predicted_sigma,
            measured=pour.measured,
            measured_sigma=pour.measured_sigma or 9.0,
        )
    if checks.objects.exists():
        apps.get_model("workshop", "Preferences").objects.update_or_create(pk=1, defaults={"pours_said": 1})
    # Pours from before have only those looks before them that are still to come.
    for pour in pours.objects.exclude(verdict="drop"):
        for days, words in FOLLOW_UPS:
            due = pour.poured_on + timedelta(days=days)
            if due > date.today():
                follow_ups.objects.create(pour=pour, due_on=due, words=words)


class Migration(migrations.Migration):
    dependencies = [("pours", "0006_checks"), ("workshop", "0008_own_tests")]
    operations = [migrations.RunPython(tests_become_checks, migrations.RunPython.noop)]
