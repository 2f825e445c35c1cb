from django.db import migrations

from core.text import folded


def fold_terms(apps, schema_editor) -> None:
    """Terms as they are compared; of two that are the same to a reader, the first stays."""
    ListedTerm = apps.get_model("words", "ListedTerm")
    taken: set[tuple[int, str]] = set()
    for term in ListedTerm.objects.order_by("id"):
        term.folded = folded(term.text)
        if (term.workspace_id, term.folded) in taken:
            term.delete()
            continue
        taken.add((term.workspace_id, term.folded))
        term.save(update_fields=["folded"])


class Migration(migrations.Migration):
    dependencies = [("words", "0002_firm_ground")]
    operations = [migrations.RunPython(fold_terms, migrations.RunPython.noop)]
