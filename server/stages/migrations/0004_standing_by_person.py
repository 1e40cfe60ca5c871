from django.conf import settings
from django.db import migrations, models


def of_the_owner(apps, schema_editor):
    """Until now a material stood where its owner had it."""
    Standing, Material = apps.get_model("stages", "Standing"), apps.get_model("materials", "Material")
    owner = Material.objects.filter(id=models.OuterRef("material_id")).values("owner_id")
    Standing.objects.update(person_id=models.Subquery(owner))


class Migration(migrations.Migration):
    dependencies = [
        ("stages", "0003_pictures"),
        ("materials", "0003_likeness"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.AddField(
            "standing",
            "person",
            models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="+", null=True),
        ),
        migrations.AlterField(
            "standing", "material", models.ForeignKey("materials.material", models.CASCADE, related_name="+")
        ),
        migrations.RunPython(of_the_owner, migrations.RunPython.noop),
        migrations.RunSQL("SET CONSTRAINTS ALL IMMEDIATE", migrations.RunSQL.noop),
        migrations.AlterField(
            "standing", "person", models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="+")
        ),
        migrations.AddConstraint(
            "standing", models.UniqueConstraint(fields=["person", "material"], name="one_standing_a_person")
        ),
    ]
