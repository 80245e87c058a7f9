from django.core.management import call_command

from deliveries.models import Delivery
from jobs.models import Job
from people.models import Person
from pictures.models import Picture
from server_tests.base import ServerTestCase
from takes.models import Take


class DemoTest(ServerTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.job.delete()
        self.owner.delete()

    def counts(self) -> list[int]:
        return [model.objects.count() for model in (Person, Job, Picture, Take, Delivery)]

    def test_loaded_again_it_doubles_nothing(self) -> None:
        call_command("demo")
        once = self.counts()
        self.assertEqual(once[1:], [3, 10, 11, 1])
        call_command("demo")
        self.assertEqual(self.counts(), once)

    def test_what_was_lost_comes_back_and_what_was_changed_stays(self) -> None:
        call_command("demo")
        Picture.objects.get(name="Kite days poster.png").delete()
        Job.objects.filter(title__contains="exhibition").update(note="my own note")
        call_command("demo")
        self.assertTrue(Picture.objects.filter(name="Kite days poster.png").exists())
        self.assertTrue(Job.objects.filter(note="my own note").exists())

    def test_there_is_a_wide_gamut_file_and_a_turned_one(self) -> None:
        call_command("demo")
        facts = {picture.name: picture.facts for picture in Picture.objects.all()}
        loft = facts["Loft bench, catalogue.tif"]
        self.assertEqual((loft["bits"], loft["format"]), (16, "TIFF"))
        self.assertIn("P3", loft["profile"])
        self.assertIn("upright", facts["Harbour wall 1988.jpg"]["notes"][0])
