import datetime

from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ('meetings', '0005_who_sees'),
    ]

    operations = [
        migrations.AlterField(
            model_name='person',
            name='folded',
            field=models.CharField(max_length=400),
        ),
        migrations.AddConstraint(
            model_name='meeting',
            constraint=models.CheckConstraint(condition=models.Q(('started_at__gte', datetime.datetime(1970, 1, 1, 0, 0, tzinfo=datetime.timezone.utc)), ('started_at__lt', datetime.datetime(2200, 1, 1, 0, 0, tzinfo=datetime.timezone.utc))), name='within_time'),
        ),
        migrations.AddConstraint(
            model_name='person',
            constraint=models.UniqueConstraint(fields=('workspace', 'folded'), name='one_person_a_name'),
        ),
        migrations.AddConstraint(
            model_name='person',
            constraint=models.UniqueConstraint(fields=('workspace', 'user'), name='one_person_a_user'),
        ),
    ]
