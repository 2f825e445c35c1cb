from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    """What was called a reel is a sequence."""

    dependencies = [
        ("excerpts", "0001_initial"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.RenameModel("Reel", "Sequence"),
        migrations.RenameModel("ReelPart", "SequencePart"),
        migrations.RenameField("SequencePart", "reel", "sequence"),
        migrations.AlterField(
            "Sequence",
            "workspace",
            models.ForeignKey("accounts.Workspace", models.CASCADE, related_name="sequences"),
        ),
        migrations.AlterField(
            "Sequence",
            "excerpts",
            models.ManyToManyField("excerpts.Excerpt", through="excerpts.SequencePart", related_name="sequences"),
        ),
    ]
