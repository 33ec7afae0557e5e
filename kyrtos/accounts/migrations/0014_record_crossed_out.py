from django.db import migrations

ONLY_ADDED = """
create or replace function kyrtos_only_added() returns trigger language plpgsql as $$
begin
  -- who asks to be forgotten is crossed out of what a line is about: letter by letter, nothing else
  if tg_op = 'UPDATE' then if (new.id, new."when", new.who, new.address, new.what)
      is not distinct from (old.id, old."when", old.who, old.address, old.what)
    and new.shop_id is not distinct from old.shop_id
    and length(new.about) = length(old.about)
    and (select coalesce(bool_and(now_there = was or now_there = '█'), true)
         from unnest(string_to_array(new.about, null), string_to_array(old.about, null))
         as letters(now_there, was))
  then return new; end if; end if;
  raise exception 'the record of who did what is only ever added to';
end $$;
create trigger never_emptied before truncate on shop_auditentry
  execute function kyrtos_only_added();
"""
AS_BEFORE = """
drop trigger never_emptied on shop_auditentry;
create or replace function kyrtos_only_added() returns trigger language plpgsql as $$
begin
  raise exception 'the record of who did what is only ever added to';
end $$;
"""


class Migration(migrations.Migration):

    dependencies = [("shop", "0013_names_and_places")]

    operations = [migrations.RunSQL(ONLY_ADDED, AS_BEFORE)]
