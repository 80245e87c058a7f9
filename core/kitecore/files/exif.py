"""EXIF as it lies in JPEG, PNG and WebP (a block) and in TIFF (directories), read and written alike.

libvips neither reads nor writes the EXIF directory of TIFF files, so this does; see the EXIF 2.32 standard (CIPA
DC-008) and TIFF 6.0. Values are carried as they are; what describes the pixels themselves (size, orientation,
resolution) is left to whoever writes the pixels.
"""

from __future__ import annotations

import struct
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, BinaryIO

_EXIF_POINTER, _GPS_POINTER, _MAKER_NOTE = 0x8769, 0x8825, 0x927C
_X_RESOLUTION, _RESOLUTION_UNIT = 282, 296
#: Units of length per inch by their number: inch and centimetre.
_INCHES = {2: 1.0, 3: 2.54}
_BYTES_OF_TYPE = {1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 6: 1, 7: 1, 8: 2, 9: 4, 10: 8, 11: 4, 12: 8, 13: 4, 16: 8, 17: 8, 18: 8}
_WHOLE_NUMBERS = {1: "B", 3: "H", 4: "I", 13: "I", 16: "Q"}
#: Of the main directory, what is about the photograph: description, maker, model, software, date, artist, copyright.
_MAIN_TAGS = {270, 271, 272, 305, 306, 315, 33432}
#: Of the EXIF directory, what is about these very pixels: width, height, and a pointer to other directories.
_PIXEL_TAGS = {0xA002, 0xA003, 0xA005}
_MOST_BYTES = 65_500
#: A pointer to directories inside one, and how many are looked at.
_INSIDE, _MOST_DIRECTORIES = 330, 16
_PREFIX = b"Exif\0\0"


@dataclass(frozen=True, slots=True)
class Entry:
    """One tag: its TIFF type, how many values, and their bytes in little-endian order."""

    type: int
    count: int
    data: bytes

    @property
    def value(self) -> Any:
        """Text, a number, or a list of numbers; None for opaque bytes."""
        if self.type == 2:
            return self.data.split(b"\0")[0].decode("utf-8", "replace").strip()
        if self.type in (5, 10):
            numbers = struct.unpack(f"<{2 * self.count}{'I' if self.type == 5 else 'i'}", self.data)
            values: list[float] = [a / b if b else 0.0 for a, b in zip(numbers[::2], numbers[1::2], strict=True)]
        elif self.type in _WHOLE_NUMBERS:
            values = list(struct.unpack(f"<{self.count}{_WHOLE_NUMBERS[self.type]}", self.data))
        else:
            return None
        return values[0] if len(values) == 1 else values


@dataclass(frozen=True)
class Exif:
    """The directories of a photograph's EXIF by tag; empty when there is none."""

    main: dict[int, Entry] = field(default_factory=dict)
    photo: dict[int, Entry] = field(default_factory=dict)
    place: dict[int, Entry] = field(default_factory=dict)

    def __bool__(self) -> bool:
        return bool(self.main or self.photo or self.place)


def _swapped(data: bytes, type_: int) -> bytes:
    """Bytes of big-endian values in little-endian order."""
    unit = 4 if type_ in (5, 10) else _BYTES_OF_TYPE[type_]
    return b"".join(data[i : i + unit][::-1] for i in range(0, len(data), unit))


class _Reader:
    """Reads directories of a TIFF structure, classic or BigTIFF, from a file positioned by ``start``."""

    def __init__(self, file: BinaryIO, start: int = 0) -> None:
        self.file, self.start = file, start
        header = self._bytes(0, 16)
        self.order = {b"II": "<", b"MM": ">"}[header[:2]]
        self.big = struct.unpack(self.order + "H", header[2:4])[0] == 43
        form = "Q" if self.big else "I"
        (self.first,) = struct.unpack(self.order + form, header[8:16] if self.big else header[4:8])

    def _bytes(self, offset: int, count: int) -> bytes:
        self.file.seek(self.start + offset)
        return self.file.read(count)

    def directory(self, offset: int, wanted: Callable[[int], bool]) -> dict[int, Entry]:
        count_size, entry_size, word = (8, 20, 8) if self.big else (2, 12, 4)
        (count,) = struct.unpack(self.order + ("Q" if self.big else "H"), self._bytes(offset, count_size))
        entries = {}
        for index in range(min(count, 1000)):
            raw = self._bytes(offset + count_size + index * entry_size, entry_size)
            tag, type_, values = struct.unpack(self.order + ("HHQ" if self.big else "HHI"), raw[: entry_size - word])
            length = _BYTES_OF_TYPE.get(type_, 0) * values
            if not wanted(tag) or not 0 < length <= 1 << 20:
                continue
            data = raw[entry_size - word :][:length]
            if length > word:
                (place,) = struct.unpack(self.order + ("Q" if self.big else "I"), raw[entry_size - word :])
                data = self._bytes(place, length)
            if len(data) == length:
                entries[tag] = Entry(type_, values, data if self.order == "<" else _swapped(data, type_))
        return entries

    def following(self, offset: int) -> int:
        """Where the directory after that at ``offset`` lies; 0 if there is none."""
        count_size, entry_size, form = (8, 20, "Q") if self.big else (2, 12, "I")
        (count,) = struct.unpack(self.order + ("Q" if self.big else "H"), self._bytes(offset, count_size))
        (place,) = struct.unpack(
            self.order + form, self._bytes(offset + count_size + count * entry_size, struct.calcsize(form))
        )
        return int(place)

    def exif(self) -> Exif:
        pointers = {_EXIF_POINTER, _GPS_POINTER}
        main = self.directory(self.first, lambda tag: tag in _MAIN_TAGS | pointers)
        found = {tag: main.pop(tag).value for tag in pointers & set(main)}
        photo = (
            self.directory(found[_EXIF_POINTER], lambda tag: tag not in _PIXEL_TAGS) if _EXIF_POINTER in found else {}
        )
        place = self.directory(found[_GPS_POINTER], lambda tag: True) if _GPS_POINTER in found else {}
        return Exif(main, photo, place)


def from_block(block: bytes) -> Exif:
    """EXIF from a block as JPEG carries it (with or without the leading ``Exif\\0\\0``); broken blocks give none."""
    import io

    start = len(_PREFIX) if block.startswith(_PREFIX) else 0
    try:
        return _Reader(io.BytesIO(block), start).exif()
    except (KeyError, struct.error, TypeError):
        return Exif()


def resolution_of(block: bytes) -> float | None:
    """Pixels per inch as a block tells them; None if it does not."""
    import io

    start = len(_PREFIX) if block.startswith(_PREFIX) else 0
    try:
        reader = _Reader(io.BytesIO(block), start)
        told = reader.directory(reader.first, lambda tag: tag in (_X_RESOLUTION, _RESOLUTION_UNIT))
    except (KeyError, struct.error, TypeError):
        return None
    if _X_RESOLUTION not in told:
        return None
    value, unit = told[_X_RESOLUTION].value, told[_RESOLUTION_UNIT].value if _RESOLUTION_UNIT in told else 2
    if not isinstance(value, float) or value <= 0:
        return None
    return value * _INCHES[unit] if unit in _INCHES else None


def from_tiff(path: Path) -> Exif:
    """EXIF of a TIFF file; broken directories give none."""
    with path.open("rb") as file:
        try:
            return _Reader(file).exif()
        except (KeyError, struct.error, TypeError):
            return Exif()


def directories_of(file: BinaryIO, wanted: set[int]) -> list[dict[int, Entry]]:
    """The tags ``wanted`` of the directories of a TIFF structure: of its chain, and one level of those inside it.

    Raises KeyError, struct.error or TypeError where it is broken.
    """
    reader = _Reader(file)
    found, place, places = [], reader.first, set[int]()
    while place and place not in places and len(places) < _MOST_DIRECTORIES:
        places.add(place)
        entries, following = reader.directory(place, lambda tag: tag in wanted | {_INSIDE}), reader.following(place)
        inside = entries.pop(_INSIDE).value if _INSIDE in entries else []
        found.append(entries)
        for one in (inside if isinstance(inside, list) else [inside])[:_MOST_DIRECTORIES]:
            found.append(reader.directory(one, lambda tag: tag in wanted))
        place = following
    return found


def _directory_bytes(entries: dict[int, Entry], offset: int, big: bool) -> bytes:
    """A directory and its values as they lie from ``offset`` on, little-endian, linked to no further one."""
    count_size, entry_size, word = (8, 20, 8) if big else (2, 12, 4)
    form = "<HHQ" if big else "<HHI"
    values_at = offset + count_size + entry_size * len(entries) + word
    head, values = struct.pack("<Q" if big else "<H", len(entries)), b""
    for tag in sorted(entries):
        entry = entries[tag]
        head += struct.pack(form, tag, entry.type, entry.count)
        if len(entry.data) <= word:
            head += entry.data.ljust(word, b"\0")
        else:
            head += struct.pack("<Q" if big else "<I", values_at + len(values))
            values += entry.data + b"\0" * (len(entry.data) % 2)
    return head + b"\0" * word + values


def _with_subdirectories(exif: Exif, main: dict[int, Entry], offset: int, big: bool) -> tuple[bytes, int]:
    """Bytes of the photo, place and main directories from ``offset`` on, and where the main one begins."""
    content, main = b"", dict(main)
    for pointer, entries in ((_EXIF_POINTER, exif.photo), (_GPS_POINTER, exif.place)):
        if entries:
            place = offset + len(content)
            main[pointer] = Entry(16, 1, struct.pack("<Q", place)) if big else Entry(4, 1, struct.pack("<I", place))
            content += _directory_bytes(entries, place, big)
            content += b"\0" * (len(content) % 2)
    start = offset + len(content)
    return content + _directory_bytes(main, start, big), start


def to_block(exif: Exif) -> bytes:
    """A block for JPEG, PNG or WebP; the maker's note is dropped where it would be too long for JPEG."""
    content, start = _with_subdirectories(exif, exif.main, 8, big=False)
    if len(content) > _MOST_BYTES:
        photo = {tag: entry for tag, entry in exif.photo.items() if tag != _MAKER_NOTE and len(entry.data) < 4096}
        content, start = _with_subdirectories(Exif(exif.main, photo, exif.place), exif.main, 8, big=False)
    return _PREFIX + b"II*\0" + struct.pack("<I", start) + content


def add_to_tiff(path: Path, exif: Exif) -> None:
    """Add EXIF to a little-endian TIFF file just written: a new main directory at its end, linked from the header."""
    with path.open("r+b") as file:
        reader = _Reader(file)
        if reader.order != "<":
            raise ValueError("only little-endian TIFF files can be extended")
        main = exif.main | reader.directory(reader.first, lambda tag: True)
        file.seek(0, 2)
        end = file.tell()
        file.write(b"\0" * (end % 2))
        end += end % 2
        content, start = _with_subdirectories(exif, main, end, reader.big)
        file.write(content)
        file.seek(8 if reader.big else 4)
        file.write(struct.pack("<Q" if reader.big else "<I", start))
