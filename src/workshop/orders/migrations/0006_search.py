"""Search that forgives: a folded text of each line, kept by the database, with an index over its trigrams."""

from django.contrib.postgres.indexes import GinIndex
from django.contrib.postgres.operations import TrigramExtension, UnaccentExtension
from django.db import migrations, models

from workshop.orders.folding import FOLD_SQL, line_text


class Migration(migrations.Migration):
    dependencies = [
        ("orders", "0005_long_questions"),
    ]

    operations = [
        TrigramExtension(),
        UnaccentExtension(),
        migrations.RunSQL(FOLD_SQL, "DROP FUNCTION kizami_fold(text)"),
        migrations.AddField(
            model_name="orderline",
            name="candidates",
            field=models.JSONField(default=list),
        ),
        migrations.RemoveField(
            model_name="setasiderow",
            name="column",
        ),
        migrations.AddField(
            model_name="setasiderow",
            name="columns",
            field=models.JSONField(default=list),
        ),
        migrations.AddField(
            model_name="orderline",
            name="folded",
            field=models.GeneratedField(
                db_persist=True, expression=line_text(), output_field=models.TextField()
            ),
        ),
        migrations.AddIndex(
            model_name="orderline",
            index=GinIndex(fields=["folded"], name="line_by_trigrams", opclasses=["gin_trgm_ops"]),
        ),
    ]
