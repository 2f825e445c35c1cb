from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('words', '0003_folded'),
    ]

    operations = [
        migrations.AlterField(
            model_name='listedterm',
            name='folded',
            field=models.CharField(max_length=400),
        ),
        migrations.AddConstraint(
            model_name='listedterm',
            constraint=models.UniqueConstraint(fields=('workspace', 'folded'), name='one_term_a_word'),
        ),
    ]
