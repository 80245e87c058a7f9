import json
from unittest import TestCase

from pydantic import TypeAdapter, ValidationError

from kitecore.engines import engines
from kitecore.engines.kinds import KINDS
from kitecore.steps import AnyStep, step_classes
from kitecore.steps.catalogue import KindOfStep, catalogue

any_step: TypeAdapter[AnyStep] = TypeAdapter(AnyStep)


class CatalogueTest(TestCase):
    def setUp(self) -> None:
        self.kinds = catalogue()

    def test_every_step_there_is_is_in_it_once_in_their_order(self) -> None:
        classes = [cls.model_fields["kind"].default for cls in step_classes()]
        self.assertEqual([one.kind for one in self.kinds], classes)
        self.assertEqual(len(set(classes)), len(classes))

    def test_people_are_told_what_each_is_for(self) -> None:
        for one in self.kinds:
            with self.subTest(one.kind):
                self.assertTrue(one.title)
                self.assertTrue(one.purpose[0].isupper())

    def test_what_a_step_begins_with_is_a_step(self) -> None:
        for one in self.kinds:
            step = any_step.validate_python(one.begun)
            self.assertEqual((step.kind, step.on), (one.kind, True))
            self.assertEqual(step.model_dump(mode="json"), one.begun)

    def test_the_limits_are_those_that_are_kept(self) -> None:
        found = 0
        for one in self.kinds:
            for name, limits in one.limits.items():
                beyond_them = [limits.least - 1] if limits.least is not None else []
                beyond_them += [limits.most + 1] if limits.most is not None else []
                found += len(beyond_them)
                for beyond in beyond_them:
                    with self.subTest(f"{one.kind}.{name} = {beyond}"), self.assertRaises(ValidationError):
                        any_step.validate_python({**one.begun, name: beyond})
        self.assertGreater(found, 10)

    def test_usual_values_are_told_apart_by_what_they_go_by(self) -> None:
        enlarge = next(one for one in self.kinds if one.kind == "enlarge")
        self.assertEqual(sorted(enlarge.usual["target"]), ["factor", "height", "print", "width"])

    def test_it_is_plain_data(self) -> None:
        for one in self.kinds:
            self.assertEqual(KindOfStep.model_validate(json.loads(one.model_dump_json())), one)


class KindsOfEnginesTest(TestCase):
    def test_every_step_that_uses_engines_uses_a_kind_there_is_one_of(self) -> None:
        shipped = {engine.manifest.kind for engine in engines().values()}
        self.assertEqual(shipped, set(KINDS))
        self.assertEqual({cls.engine_kind for cls in step_classes() if cls.engine_kind}, set(KINDS))

    def test_strengths_are_among_the_maps(self) -> None:
        for name, kind in KINDS.items():
            self.assertEqual(kind.name, name)
            self.assertLessEqual(kind.strengths, len(kind.maps))
            self.assertTrue(kind.restores or not kind.strengths)
            self.assertEqual(kind.planes % 3, 0)
