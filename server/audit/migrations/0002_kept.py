from django.db import migrations

# What was written stays as it was written. A row may lose its ties to an account or a meeting that is gone, and nothing else of it changes;
# only where a person's traces are erased (`server.audit.log.erasing`) may the detail be rewritten. Whoever has the database can do more.
_KEEP = """
create function audit_entry_stays() returns trigger language plpgsql as $$
begin
    if current_setting('aftershower.erasing', true) = 'on' then
        return coalesce(new, old);
    end if;
    if tg_op = 'UPDATE' and (new.id, new.workspace_id, new.at, new.verb, new.detail) = (old.id, old.workspace_id, old.at, old.verb, old.detail)
        and (new.actor_id is null or new.actor_id = old.actor_id) and (new.meeting_id is null or new.meeting_id = old.meeting_id) then
        return new;
    end if;
    raise exception 'an entry of the audit is not changed' using errcode = 'restrict_violation';
end $$;
create trigger audit_entry_stays before update or delete on audit_entry for each row execute function audit_entry_stays();
"""


class Migration(migrations.Migration):

    dependencies = [('audit', '0001_initial')]
    operations = [migrations.RunSQL(_KEEP, "drop trigger audit_entry_stays on audit_entry; drop function audit_entry_stays;")]
