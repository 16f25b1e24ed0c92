"""The one way by which words leave what is on record."""

from django.db import migrations

from workshop.retention.erasing import FORWARD_SQL, REVERSE_SQL


class Migration(migrations.Migration):
    initial = True
    dependencies = [
        ("orders", "0003_stages"),
        ("making", "0001_initial"),
    ]

    operations = [
        migrations.RunSQL(FORWARD_SQL, REVERSE_SQL),
    ]
