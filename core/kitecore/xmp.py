"""XMP: the history of a file, as XMP Specification part 2 has it (xmpMM:History), told beside what the source told."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime
from uuid import uuid4
from xml.etree import ElementTree

from kitecore.steps import Frame, Step

_NAMES = {
    "x": "adobe:ns:meta/", "rdf": "http://www.w3.org/1999/02/22-rdf-syntax-ns#",
    "xmp": "http://ns.adobe.com/xap/1.0/", "xmpMM": "http://ns.adobe.com/xap/1.0/mm/",
    "stEvt": "http://ns.adobe.com/xap/1.0/sType/ResourceEvent#", "dc": "http://purl.org/dc/elements/1.1/",
    "exif": "http://ns.adobe.com/exif/1.0/", "tiff": "http://ns.adobe.com/tiff/1.0/",
}  # fmt: skip
_PRINT_NAMES = {"pdfxid": "http://www.npes.org/pdfx/ns/id/", "pdf": "http://ns.adobe.com/pdf/1.3/"}
_AGENT = "Kite Glass"
#: Packets larger than this, and those that define entities of their own, are handed on as they are.
_LARGEST = 2_000_000
_BEGIN = b'<?xpacket begin="\xef\xbb\xbf" id="W5M0MpCehiHzreSzNTczkc9d"?>'
_END = b'<?xpacket end="w"?>'


def with_history(packet: bytes | None, steps: Sequence[Step], when: datetime | None = None) -> bytes:
    """The source's packet (None: an empty one) with an entry that tells which steps were done.

    What the source told stays. A packet that cannot be read is replaced; one that is not safe to read is left as it is.
    """
    if packet and (len(packet) > _LARGEST or b"<!DOCTYPE" in packet):
        return packet
    for prefix, uri in _NAMES.items():
        ElementTree.register_namespace(prefix, uri)
    root = _parsed(packet)
    description = root.find(_name("rdf:RDF") + "/" + _name("rdf:Description"))
    assert description is not None
    moment = (when or datetime.now(UTC)).isoformat(timespec="seconds")
    history = description.find(_name("xmpMM:History"))
    if history is None:
        history = ElementTree.SubElement(description, _name("xmpMM:History"))
    entries = history.find(_name("rdf:Seq"))
    if entries is None:
        entries = ElementTree.SubElement(history, _name("rdf:Seq"))
    entry = ElementTree.SubElement(entries, _name("rdf:li"), {_name("rdf:parseType"): "Resource"})
    for name, text in (("action", "edited"), ("softwareAgent", _AGENT), ("when", moment), ("parameters", told(steps))):
        ElementTree.SubElement(entry, _name(f"stEvt:{name}")).text = text
    content: bytes = ElementTree.tostring(root, encoding="utf-8")
    return _BEGIN + content + _END


def for_print(packet: bytes | None, title: str, when: datetime) -> bytes:
    """The packet (None: an empty one) with what PDF/X-4 asks of a file: its title, dates, identity, and that it is not trapped.

    A packet that is not safe to read is replaced.
    """
    unsafe = packet is not None and (len(packet) > _LARGEST or b"<!DOCTYPE" in packet)
    for prefix, uri in (_NAMES | _PRINT_NAMES).items():
        ElementTree.register_namespace(prefix, uri)
    root = _parsed(None if unsafe else packet)
    description = root.find(_name("rdf:RDF") + "/" + _name("rdf:Description"))
    assert description is not None
    moment = when.isoformat(timespec="seconds")
    identity = f"uuid:{uuid4()}"
    for name, text in (
        ("pdfxid:GTS_PDFXVersion", "PDF/X-4"), ("pdf:Trapped", "False"), ("xmp:CreateDate", moment),
        ("xmp:ModifyDate", moment), ("xmp:MetadataDate", moment), ("xmpMM:DocumentID", identity),
        ("xmpMM:VersionID", "1"), ("xmpMM:RenditionClass", "default"),
    ):  # fmt: skip
        prefix, _, word = name.partition(":")
        tag = f"{{{(_NAMES | _PRINT_NAMES)[prefix]}}}{word}"
        description.attrib.pop(tag, None)
        for old in description.findall(tag):
            description.remove(old)
        ElementTree.SubElement(description, tag).text = text
    if description.find(_name("dc:title")) is None:
        words = ElementTree.SubElement(ElementTree.SubElement(description, _name("dc:title")), _name("rdf:Alt"))
        language = "{http://www.w3.org/XML/1998/namespace}lang"
        ElementTree.SubElement(words, _name("rdf:li"), {language: "x-default"}).text = title
    content: bytes = ElementTree.tostring(root, encoding="utf-8")
    return _BEGIN + content + _END


def without_place(packet: bytes) -> bytes | None:
    """The packet without where the picture was taken (exif:GPS…); None if it cannot be read, so that nothing slips through."""
    if len(packet) > _LARGEST or b"<!DOCTYPE" in packet:
        return None
    try:
        root = ElementTree.fromstring(packet.rstrip(b"\0"))
    except ElementTree.ParseError:
        return None
    of_place = f"{{{_NAMES['exif']}}}GPS"
    for element in root.iter():
        for child in [one for one in element if one.tag.startswith(of_place)]:
            element.remove(child)
        for name in [one for one in element.attrib if one.startswith(of_place)]:
            del element.attrib[name]
    content: bytes = ElementTree.tostring(root, encoding="utf-8")
    return _BEGIN + content + _END


def told(steps: Sequence[Step]) -> str:
    """The steps that were done, each with its engine, in order; ``nothing`` if none was."""
    done = [step for step in steps if step.on and step != Frame()]
    names = [f"{step.kind} ({engine})" if (engine := getattr(step, "engine", "")) else step.kind for step in done]
    return ", ".join(names) or "nothing"


def _parsed(packet: bytes | None) -> ElementTree.Element:
    """The packet's root, which holds at least one description."""
    root = None
    if packet:
        try:
            root = ElementTree.fromstring(packet.rstrip(b"\0"))
        except ElementTree.ParseError:
            root = None
    if root is None or root.find(_name("rdf:RDF")) is None:
        root = ElementTree.Element(_name("x:xmpmeta"))
        ElementTree.SubElement(root, _name("rdf:RDF"))
    graph = root.find(_name("rdf:RDF"))
    assert graph is not None
    if graph.find(_name("rdf:Description")) is None:
        ElementTree.SubElement(graph, _name("rdf:Description"), {_name("rdf:about"): ""})
    return root


def _name(prefixed: str) -> str:
    prefix, _, name = prefixed.partition(":")
    return f"{{{_NAMES[prefix]}}}{name}"
