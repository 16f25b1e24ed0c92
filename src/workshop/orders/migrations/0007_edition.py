"""A line has an edition, counted on with every change by a person or a list."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("orders", "0006_search"),
    ]

    operations = [
        migrations.AddField(
            model_name="orderline",
            name="edition",
            field=models.PositiveIntegerField(default=1),
        ),
    ]
