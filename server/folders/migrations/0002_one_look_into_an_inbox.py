"""An inbox is looked into by one hand-off: of several that were, the first goes on."""

from django.db import migrations, models


def the_first_goes_on(apps, schema_editor):  # type: ignore[no-untyped-def]
    seen = set()
    HandOff = apps.get_model("folders", "HandOff")
    for one in HandOff.objects.filter(removed=None, watched=True).order_by("created"):
        if one.inbox in seen:
            one.watched = False
            one.save(update_fields=["watched"])
        seen.add(one.inbox)


class Migration(migrations.Migration):
    dependencies = [("folders", "0001_initial")]

    operations = [
        migrations.RunPython(the_first_goes_on, migrations.RunPython.noop),
        migrations.AddConstraint(
            "handoff",
            models.UniqueConstraint(
                condition=models.Q(("removed", None), ("watched", True)), fields=("inbox",), name="one_look_into_an_inbox"
            ),
        ),
    ]
