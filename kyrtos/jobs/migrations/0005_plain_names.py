"""Plain names: the revision in force, and the group of edits that undo takes as one."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("jobs", "0004_recheck")]
    operations = [
        migrations.RenameField("job", "head", "current_revision"),
        migrations.RenameField("revision", "burst", "edit_group"),
    ]
