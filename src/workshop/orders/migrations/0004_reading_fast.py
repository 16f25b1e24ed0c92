"""Indexes in the orders in which lines are read, and the words that stand in them."""

from django.db import migrations, models

from workshop.orders import known_words, standing


class Migration(migrations.Migration):

    dependencies = [
        ('catalogue', '0001_initial'),
        ('making', '0002_reading_fast'),
        ('orders', '0003_stages'),
        ('sources', '0001_initial'),
    ]

    operations = [
        migrations.CreateModel(
            name='KnownWord',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
                ('word', models.CharField(max_length=40)),
            ],
        ),
        migrations.CreateModel(
            name='LineChanged',
            fields=[
                ('id', models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name='ID')),
            ],
        ),
        migrations.RemoveIndex(
            model_name='orderline',
            name='line_by_list_and_stage',
        ),
        migrations.AddIndex(
            model_name='orderline',
            index=models.Index(fields=['order_list', 'stage'], include=('quantity', 'due'), name='line_by_list_and_stage'),
        ),
        migrations.AddIndex(
            model_name='orderline',
            index=models.Index(models.Case(models.When(stage='held', then=0), models.When(stage='new', then=1), default=2, output_field=models.IntegerField()), models.OrderBy(models.F('badness'), descending=True), models.OrderBy(models.F('rush'), descending=True), models.OrderBy(models.F('due'), nulls_last=True), models.F('id'), name='line_in_book_order'),
        ),
        migrations.AddIndex(
            model_name='orderline',
            index=models.Index(models.Case(models.When(stage='sent', then=1), default=0, output_field=models.IntegerField()), models.OrderBy(models.F('due'), nulls_last=True), models.OrderBy(models.F('rush'), descending=True), models.OrderBy(models.F('badness'), descending=True), models.F('id'), name='line_in_date_order'),
        ),
        migrations.AddIndex(
            model_name='knownword',
            index=models.Index(fields=['word'], name='known_word'),
        ),
        migrations.RunSQL(known_words.FORWARD_SQL, known_words.REVERSE_SQL),
        migrations.RunSQL(standing.FORWARD_SQL, standing.REVERSE_SQL),
    ]
