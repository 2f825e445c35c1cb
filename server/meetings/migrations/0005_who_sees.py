from datetime import UTC, datetime

from django.db import migrations

from core.text import folded

EARLIEST, LATEST = datetime(1970, 1, 1, tzinfo=UTC), datetime(2199, 12, 31, tzinfo=UTC)


def fold_names(apps, schema_editor) -> None:
    """Names as they are compared. Two that are the same to a reader stay two, told apart by their keys."""
    Person = apps.get_model("meetings", "Person")
    taken: set[tuple[int, str]] = set()
    tied: set[tuple[int, int]] = set()
    for person in Person.objects.order_by("id"):
        person.folded = folded(person.name)
        if (person.workspace_id, person.folded) in taken:
            person.folded = f"{person.folded} {person.pk}"
        taken.add((person.workspace_id, person.folded))
        if person.user_id and (person.workspace_id, person.user_id) in tied:
            person.user_id = None
        tied.add((person.workspace_id, person.user_id))
        person.save(update_fields=["folded", "user"])


def let_in(apps, schema_editor) -> None:
    """Until now whoever was there could see a meeting: they still can, by name, and by nothing else."""
    Meeting, Attendee, Reader = (apps.get_model("meetings", name) for name in ("Meeting", "Attendee", "Reader"))
    Meeting.objects.filter(visibility="present").update(visibility="named")
    Meeting.objects.filter(started_at__lt=EARLIEST).update(started_at=EARLIEST)
    Meeting.objects.filter(started_at__gte=LATEST).update(started_at=LATEST)
    present = Attendee.objects.exclude(person__user=None).exclude(meeting__visibility="mine")
    pairs = set(present.values_list("meeting", "person__user"))
    Reader.objects.bulk_create([Reader(meeting_id=meeting, user_id=user) for meeting, user in pairs])


def let_out(apps, schema_editor) -> None:
    """The way back of the name alone."""
    apps.get_model("meetings", "Meeting").objects.filter(visibility="named").update(visibility="present")


class Migration(migrations.Migration):
    dependencies = [("meetings", "0004_firm_ground")]
    operations = [
        migrations.RunPython(fold_names, migrations.RunPython.noop),
        migrations.RunPython(let_in, let_out),
    ]
