"""When revisions were made."""

from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('catalogue', '0001_initial'),
        ('files', '0001_initial'),
        ('making', '0001_initial'),
        ('orders', '0003_stages'),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AddIndex(
            model_name='revision',
            index=models.Index(fields=['made_at'], name='revision_by_time'),
        ),
    ]
