from django.db import migrations, models


def learn_from_deliveries(apps, schema_editor):
    """What was learnt so far stands in the deliveries themselves."""
    deliveries = apps.get_model("deliveries", "Delivery")
    rendered = apps.get_model("rendering", "RenderedFile")
    for one in deliveries.objects.filter(state="done", seconds__gt=1.5).order_by("-finished")[:10]:
        row = rendered.objects.create(work=one.work, seconds=one.seconds)
        rendered.objects.filter(pk=row.pk).update(finished=one.finished)


class Migration(migrations.Migration):
    initial = True
    dependencies = [("deliveries", "0003_queue_and_saved_outputs")]
    operations = [
        migrations.CreateModel(
            name="RenderedFile",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("work", models.FloatField()),
                ("seconds", models.FloatField()),
                ("finished", models.DateTimeField(auto_now_add=True)),
            ],
            options={"ordering": ["-finished"]},
        ),
        migrations.RunPython(learn_from_deliveries, migrations.RunPython.noop),
    ]
