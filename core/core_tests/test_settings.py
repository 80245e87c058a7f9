import os
from pathlib import Path
from unittest import TestCase
from unittest.mock import patch

from kitecore import errors
from kitecore.errors import KiteError, SettingsError
from kitecore.settings import settings


class SettingsTest(TestCase):
    def given(self, **variables: str) -> None:
        unset = {name: text for name, text in os.environ.items() if not name.startswith("KITE_")}
        patched = patch.dict(os.environ, unset | variables, clear=True)
        patched.start()
        self.addCleanup(patched.stop)

    def test_what_is_missing_or_empty_has_its_default(self) -> None:
        self.given(KITE_THREADS="")
        found = settings()
        self.assertEqual((found.most_megapixels, found.threads, found.provider, found.engines), (250, 0, None, []))

    def test_what_is_set_is_read_each_time(self) -> None:
        self.given(KITE_THREADS="3", KITE_MOST_MEGAPIXELS="0.5", KITE_ENGINES=f"/one{os.pathsep}{os.pathsep}/two")
        found = settings()
        self.assertEqual((found.threads, found.most_megapixels), (3, 0.5))
        self.assertEqual(found.engines, [Path("/one"), Path("/two")])
        os.environ["KITE_THREADS"] = "5"
        self.assertEqual(settings().threads, 5)

    def test_what_cannot_be_used_is_named(self) -> None:
        for name, text in (("KITE_THREADS", "many"), ("KITE_THREADS", "-1"), ("KITE_MOST_MEGAPIXELS", "0")):
            self.given(**{name: text})
            with self.assertRaises(SettingsError) as caught:
                settings()
            self.assertIn(f"{name} is set to “{text}”, which is not usable: ", str(caught.exception))
            self.assertTrue(str(caught.exception).endswith("."))

    def test_others_variables_are_not_read(self) -> None:
        self.given(KITE_HOME="somewhere", THREADS="9")
        self.assertEqual(settings().threads, 0)


class ErrorsTest(TestCase):
    def test_each_kind_has_a_code_of_its_own(self) -> None:
        kinds = [one for one in vars(errors).values() if isinstance(one, type) and issubclass(one, KiteError)]
        self.assertGreater(len(kinds), 6)
        self.assertEqual(len({kind.code for kind in kinds}), len(kinds))
        for kind in kinds:
            self.assertRegex(kind.code, r"^[a-z]+(-[a-z]+)*$")
