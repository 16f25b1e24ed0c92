from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("orders", "0004_finding_places"),
    ]

    operations = [
        migrations.AlterField(
            model_name="orderline",
            name="open_question",
            field=models.TextField(blank=True),
        ),
    ]
