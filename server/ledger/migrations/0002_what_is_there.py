from django.db import migrations


def follow(apps, schema_editor):
    """What was read before there was a ledger is followed now: the worker queues stages that wait and have no job."""
    StageRun = apps.get_model("pipeline", "StageRun")
    read = StageRun.objects.filter(stage="minutes", state="done").order_by("meeting__started_at").values_list("meeting", flat=True)
    StageRun.objects.bulk_create([StageRun(meeting_id=key, stage="follow", state="waiting") for key in read], batch_size=1000)


class Migration(migrations.Migration):
    dependencies = [("ledger", "0001_initial"), ("pipeline", "0003_firm_ground")]
    operations = [migrations.RunPython(follow, migrations.RunPython.noop)]
