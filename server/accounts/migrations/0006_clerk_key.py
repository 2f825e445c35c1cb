from django.db import migrations, models

import server.accounts.models


def give_keys(apps, schema_editor):
    for workspace in apps.get_model("accounts", "Workspace").objects.filter(clerk_key=None):
        workspace.clerk_key = server.accounts.models.new_clerk_key()
        workspace.save(update_fields=["clerk_key"])


class Migration(migrations.Migration):

    dependencies = [
        ('accounts', '0005_clerk'),
    ]

    operations = [
        migrations.AddField(
            model_name='workspace',
            name='clerk_key',
            field=models.CharField(max_length=16, null=True),
        ),
        migrations.RunPython(give_keys, migrations.RunPython.noop),
        migrations.AlterField(
            model_name='workspace',
            name='clerk_key',
            field=models.CharField(default=server.accounts.models.new_clerk_key, max_length=16, unique=True),
        ),
    ]
