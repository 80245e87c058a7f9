from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("rendering", "0001_initial")]
    operations = [
        migrations.CreateModel(
            name="EngineRate",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("machine", models.CharField(max_length=120)),
                ("engine", models.CharField(max_length=120)),
                ("rate", models.FloatField()),
                ("noted", models.DateTimeField(auto_now_add=True)),
            ],
            options={"ordering": ["-noted", "-id"]},
        ),
        migrations.DeleteModel(name="RenderedFile"),
    ]
