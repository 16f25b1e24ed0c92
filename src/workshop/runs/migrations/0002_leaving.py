from django.db import migrations

from workshop.runs.leaving import FORWARD_SQL, REVERSE_SQL


class Migration(migrations.Migration):

    dependencies = [("runs", "0001_initial"), ("orders", "0005_fewer_indexes")]

    operations = [migrations.RunSQL(FORWARD_SQL, REVERSE_SQL)]
