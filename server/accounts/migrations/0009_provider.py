from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('accounts', '0008_second_factor'),
    ]

    operations = [
        migrations.AddField(
            model_name='workspace',
            name='provider',
            field=models.CharField(blank=True, max_length=40),
        ),
    ]
