"""Where a line stands follows from its pieces, and a piece on its way never falls back: held by the database."""

from django.db import migrations

from workshop.orders.stages import FORWARD_SQL, REVERSE_SQL


class Migration(migrations.Migration):
    dependencies = [
        ("orders", "0002_revision"),
    ]

    operations = [
        migrations.RunSQL(FORWARD_SQL, REVERSE_SQL),
    ]
