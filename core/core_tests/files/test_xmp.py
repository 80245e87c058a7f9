"""The history inside a file: added to what the source told, and read by a program that shares no code with the writer."""

from __future__ import annotations

import unittest
from datetime import UTC, datetime
from pathlib import Path
from tempfile import TemporaryDirectory
from xml.etree import ElementTree

import pyvips

from core_tests.pictures import image_of, random_samples
from kitecore.delivery.spec import OutputSpec
from kitecore.delivery.write import write_result
from kitecore.files.source import Source
from kitecore.files.xmp import for_print, with_history, without_place
from kitecore.steps import Denoise, Enlarge, Frame, Repair, history
from kitecore.takes.plan import plan
from kitecore.takes.take import Take

SOURCE = b"""<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">
<rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/"><dc:rights>Tern Sands</dc:rights></rdf:Description>
</rdf:RDF></x:xmpmeta>"""
WHEN = datetime(2026, 11, 25, 12, tzinfo=UTC)
EVENT = "{http://ns.adobe.com/xap/1.0/sType/ResourceEvent#}"


def entries(packet: bytes) -> list[dict[str, str | None]]:
    """The events of a packet, told by their names."""
    root = ElementTree.fromstring(packet)
    return [
        {child.tag.removeprefix(EVENT): child.text for child in item}
        for item in root.iter("{http://www.w3.org/1999/02/22-rdf-syntax-ns#}li")
    ]


class HistoryTest(unittest.TestCase):
    done = history([Frame(), Repair(), Denoise(on=False), Enlarge(engine="crisp")])
    told = "compression damage taken away by Repair at 80 %; brought to 2 times its size by Crisp"

    def test_what_was_done_is_told_and_what_the_source_told_stays(self) -> None:
        packet = with_history(SOURCE, self.done, WHEN)
        self.assertIn(b"Tern Sands", packet)
        self.assertEqual(entries(packet), [{
            "action": "edited", "softwareAgent": "Kite Glass", "when": "2026-11-25T12:00:00+00:00",
            "parameters": self.told,
        }])  # fmt: skip

    def test_a_second_time_is_a_second_entry(self) -> None:
        twice = with_history(with_history(None, self.done, WHEN), [], WHEN)
        self.assertEqual([one["parameters"] for one in entries(twice)], [self.told, "nothing"])

    def test_broken_packets_are_replaced_and_unsafe_ones_left(self) -> None:
        self.assertEqual(len(entries(with_history(b"<x:xmpmeta", [], WHEN))), 1)
        unsafe = b'<!DOCTYPE a [<!ENTITY b "c">]>' + SOURCE
        self.assertEqual(with_history(unsafe, self.done, WHEN), unsafe)

    def test_entities_are_not_expanded_however_a_packet_is_encoded(self) -> None:
        text = '<!DOCTYPE a [<!ENTITY b "zyzz">]>' + SOURCE.decode().replace("Tern Sands", "&b;")
        for encoding in ("utf-8", "utf-16", "utf-16-be", "utf-8-sig"):
            packet = (chr(0xFEFF) + text).encode(encoding) if encoding == "utf-16-be" else text.encode(encoding)
            with self.subTest(encoding=encoding):
                self.assertEqual(with_history(packet, self.done, WHEN), packet)
                self.assertIsNone(without_place(packet))
                self.assertNotIn(b"zyzz", for_print(packet, "Kite", WHEN))
        sound = with_history(SOURCE.decode().encode("utf-16"), self.done, WHEN)
        self.assertIn(b"Tern Sands", sound)

    def test_where_it_was_taken_is_left_out_alone(self) -> None:
        placed = SOURCE.replace(
            b"<dc:rights>", b"<e:GPSLatitude xmlns:e='http://ns.adobe.com/exif/1.0/'>54,3N</e:GPSLatitude><dc:rights>"
        )
        placed = placed.replace(
            b'rdf:about=""', b"rdf:about=\"\" xmlns:e='http://ns.adobe.com/exif/1.0/' e:GPSLongitude='10,1E'"
        )
        left = without_place(placed)
        assert left is not None
        self.assertNotIn(b"GPS", left)
        self.assertIn(b"Tern Sands", left)
        self.assertIsNone(without_place(b"<!DOCTYPE a>" + placed))

    def test_delivered_files_carry_it_unless_they_are_stripped(self) -> None:
        with TemporaryDirectory() as name:
            source = Path(name) / "in.jpg"
            image = image_of(random_samples(30, 40))
            image.set_type(pyvips.GValue.blob_type, "xmp-data", SOURCE)
            image.jpegsave(str(source))
            for form, ending in (("tiff", "tif"), ("png", "png"), ("jpeg", "jpg"), ("webp", "webp")):
                for kept in (True, False):
                    path = Path(name) / f"out.{ending}"
                    with Source(source) as opened:
                        resolved = plan(Take(steps=[Enlarge(engine="plain")]), opened.size)
                        write_result(resolved, opened, OutputSpec(format=form, metadata=kept), path)
                    written = pyvips.Image.new_from_file(str(path))
                    with self.subTest(form=form, kept=kept):
                        self.assertEqual(bool(written.get_typeof("xmp-data")), kept)
                        if kept:
                            packet = bytes(written.get("xmp-data"))
                            self.assertIn(b"Tern Sands", packet)
                            self.assertEqual(entries(packet)[-1]["parameters"], "brought to 2 times its size by Plain")
