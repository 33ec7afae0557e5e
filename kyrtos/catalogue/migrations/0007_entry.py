"""A row of the catalogue is an entry: a pump is what the core makes of it."""

from django.db import migrations


class Migration(migrations.Migration):
    dependencies = [("catalogue", "0006_identity")]
    operations = [
        migrations.RenameModel("Pump", "CatalogueEntry"),
        migrations.RenameIndex(
            model_name='catalogueentry',
            new_name='catalogue_c_shop_id_2be7e6_idx',
            old_name='catalogue_p_shop_id_215df8_idx',
        ),
        migrations.RenameIndex(
            model_name='catalogueentry',
            new_name='catalogue_c_shop_id_543aac_idx',
            old_name='catalogue_p_shop_id_0b371b_idx',
        ),
    ]
