from django.db import migrations, models
from nineglass.describe import Refused
from nineglass.documents.likeness import likeness_of
from nineglass.documents.model import Material, read


def fill_in(apps, _editor):
    for one in apps.get_model("materials", "Material").objects.all():
        try:
            one.likeness = likeness_of(read(Material, one.document))
        except Refused:
            continue
        one.save(update_fields=["likeness"])


class Migration(migrations.Migration):
    dependencies = [("materials", "0002_material_color_material_deleted_at_material_family_and_more")]

    operations = [
        migrations.AddField("material", "likeness", models.CharField(default="", max_length=64)),
        migrations.RunPython(fill_in, migrations.RunPython.noop),
    ]
