"""Pictures that were traced with marks on their axes get rulers between those marks."""

from __future__ import annotations

from django.db import migrations


def lay(apps, schema_editor):
    for trace in apps.get_model("catalogue", "Trace").objects.iterator(chunk_size=20):
        old = trace.state
        if "rulers" in old:
            continue
        wide, tall = trace.width, trace.height
        corner = [0.12 * wide, 0.88 * tall]
        default = {"x1": corner, "x2": [0.92 * wide, corner[1]], "y1": corner, "y2": [corner[0], 0.1 * tall]}
        marks, values = {**default, **old["marks"]}, old["values"]
        trace.state = {
            "rulers": {
                key: {
                    "ends": [marks[f"{axis}1"], marks[f"{axis}2"]],
                    "values": [values.get(f"{axis}1", ""), values.get(f"{axis}2", "")],
                    "unit": old[f"{axis}_unit"],
                    "log": old[f"{axis}_log"],
                }
                for key, axis in (("flow", "x"), ("head", "y"))
            },
            "laid": len(old["marks"]) == 4,
            "lines": [],
            "curves": [{**one, "kind": "head", "clicks": []} for one in old["curves"]],
            "curve": old["curve"],
            "by_hand": True,
        }
        trace.save(update_fields=["state"])


class Migration(migrations.Migration):
    dependencies = [("catalogue", "0009_supplier_columns")]
    operations = [migrations.RunPython(lay, migrations.RunPython.noop)]
