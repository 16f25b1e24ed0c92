"""What the Catalogue's list shows of each product."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('catalogue', '0001_initial'),
    ]

    operations = [
        migrations.CreateModel(
            name='ProductSample',
            fields=[
                ('product', models.OneToOneField(on_delete=django.db.models.deletion.CASCADE, primary_key=True, related_name='sample', serialize=False, to='catalogue.product')),
                ('drawn_by', models.CharField(max_length=20)),
                ('content', models.TextField()),
                ('view_box', models.CharField(max_length=80)),
                ('width', models.FloatField()),
                ('height', models.FloatField()),
                ('height_mm', models.FloatField()),
                ('said', models.CharField(max_length=500)),
                ('worst', models.JSONField(null=True)),
            ],
        ),
    ]
