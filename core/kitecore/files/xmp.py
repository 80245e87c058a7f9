"""XMP: the history of a file, as XMP Specification part 2 has it (xmpMM:History), told beside what the source told."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime
from uuid import uuid4
from xml.etree import ElementTree

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

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


class _Unsafe(Exception):
    """A packet is not to be read: it is too large, or defines entities of its own."""


def with_history(packet: bytes | None, done: Sequence[str], when: datetime | None = None) -> bytes:
    """The source's packet (None: an empty one) with an entry that tells what was ``done``, a sentence each.

    What the source told stays. A packet that cannot be read is replaced; one that is not safe to read is left as it is.
    """
    try:
        root = _parsed(packet)
    except _Unsafe:
        assert packet is not None
        return packet
    for prefix, uri in _NAMES.items():
        ElementTree.register_namespace(prefix, uri)
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
    for name, text in (
        ("action", "edited"),
        ("softwareAgent", _AGENT),
        ("when", moment),
        ("parameters", "; ".join(done) or "nothing"),
    ):
        ElementTree.SubElement(entry, _name(f"stEvt:{name}")).text = text
    content: bytes = ElementTree.tostring(root, encoding="utf-8")
    return _BEGIN + content + _END


def for_print(packet: bytes | None, title: str, when: datetime) -> bytes:
    """The packet (None: an empty one) with what PDF/X-4 asks of a file: its title, dates, identity, and that it is not trapped.

    A packet that is not safe to read is replaced.
    """
    try:
        root = _parsed(packet)
    except _Unsafe:
        root = _parsed(None)
    for prefix, uri in (_NAMES | _PRINT_NAMES).items():
        ElementTree.register_namespace(prefix, uri)
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
    try:
        root = _read(packet)
    except (_Unsafe, ElementTree.ParseError):
        return None
    of_place = f"{{{_NAMES['exif']}}}GPS"
    for element in root.iter():
        for child in [one for one in element if one.tag.startswith(of_place)]:
            element.remove(child)
        for name in [one for one in element.attrib if one.startswith(of_place)]:
            del element.attrib[name]
    content: bytes = ElementTree.tostring(root, encoding="utf-8")
    return _BEGIN + content + _END


def _read(packet: bytes) -> ElementTree.Element:
    """The packet's root. Raises _Unsafe, or ParseError if it is no XML.

    Whatever the packet is encoded in, the parser refuses it once it declares a document type, before anything is expanded.
    """
    if len(packet) > _LARGEST:
        raise _Unsafe
    try:
        root: ElementTree.Element = fromstring(_trimmed(packet), forbid_dtd=True)
    except DefusedXmlException as error:
        raise _Unsafe from error
    return root


def _trimmed(packet: bytes) -> bytes:
    """Without the zeros some writers end a packet with; the last letter of UTF-16 keeps its own."""
    wide = packet[:2] in (b"\xff\xfe", b"\xfe\xff") or b"\0" in packet[:8]
    return packet if wide else packet.rstrip(b"\0")


def _parsed(packet: bytes | None) -> ElementTree.Element:
    """The packet's root, which holds at least one description. Raises _Unsafe."""
    root = None
    if packet:
        try:
            root = _read(packet)
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
