from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("pours", "0007_tests_become_checks")]

    operations = [
        migrations.RemoveConstraint(
            model_name='pour',
            name='measured_not_negative',
        ),
        migrations.RemoveConstraint(
            model_name='pour',
            name='press_above_nothing',
        ),
        migrations.RemoveField(
            model_name='pour',
            name='measured',
        ),
        migrations.RemoveField(
            model_name='pour',
            name='measured_sigma',
        ),
        migrations.RemoveField(
            model_name='pour',
            name='method',
        ),
        migrations.RemoveField(
            model_name='pour',
            name='press_g',
        ),
        migrations.RemoveField(
            model_name='pour',
            name='rod_mm',
        ),
        migrations.RemoveField(
            model_name='pour',
            name='test_c',
        ),
        migrations.RemoveField(
            model_name='pour',
            name='thumb',
        ),
    ]
