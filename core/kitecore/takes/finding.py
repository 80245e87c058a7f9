"""Find what parts of masks are about, by one look at the whole picture made small."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np

from kitecore.colour.screen import screen_samples
from kitecore.errors import TakeError
from kitecore.faces import FaceFound
from kitecore.filters.guided import Plane
from kitecore.masks.found import text_of
from kitecore.masks.parts import Found
from kitecore.masks.strokes import touched, weight
from kitecore.pipeline.geometry import Region, Size
from kitecore.pipeline.mapping import Mapping
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import Stage, resized
from kitecore.reading.cut import Seen
from kitecore.reading.matting import matted
from kitecore.reading.people import find_people
from kitecore.reading.sharp_area import sharp_area
from kitecore.reading.skin import find_skin
from kitecore.reading.sky import find_sky
from kitecore.reading.subject import Hints, find_subject
from kitecore.steps import AnyStep

#: Longest side of what is looked at.
LOOK_SIDE = 448

#: The same where single hairs are told apart, and what has any.
HAIR_SIDE = 768
_WITH_HAIR = ("subject", "background", "people")

#: How far a search is once the picture has been made small, and once all but its hair is found.
_SEEN, _WITHOUT_HAIR = 0.15, 0.45

#: A stroke says something of pixels that it touches more strongly than that.
_UNDER = 0.3

#: From this share of the picture on people are its subject.
_PEOPLE = 0.03

_NOT_FOUND = {
    "sky": "No sky was found: nothing even reaches the upper border. Draw a gradient, or pick its colour.",
    "subject": "Nothing stands out from what is around it. Draw a box around what is meant, or paint over it.",
    "background": "Nothing stands out from what is around it. Draw a box around what the background is to leave out.",
    "people": "No face was found, so nobody is known to be there. Draw a box around a subject instead.",
    "skin": "No skin was found. Pick its colour instead.",
    "focus": "Nothing tells what is in focus: there are hardly any edges.",
}


@dataclass(frozen=True)
class Look:
    """A picture as it is looked at: the upright source and its faces."""

    stage: Stage
    profile: bytes | None
    faces: Sequence[FaceFound]
    #: Size of the source itself; ``stage`` may be a reduced version.
    size: Size

    @cached_property
    def seen(self) -> Seen:
        small = self.stage.size.fitted(LOOK_SIDE)
        pixels = resized(self.stage, small).render(small.region, Run())
        return screen_samples(pixels, self.profile)

    def find(self, part: Found, run: Run) -> Found:
        """The part with its plane. Raises TakeError with what to do instead if there is no such thing."""
        haired = bool(part.hair) and part.what in _WITH_HAIR
        seen = self.seen
        run.progress(_SEEN)
        looking = run.between(_SEEN, _WITHOUT_HAIR if haired else 1)
        finders: dict[str, Callable[[], Plane | None]] = {
            "sky": lambda: find_sky(seen, looking),
            "focus": lambda: sharp_area(seen, looking),
            "skin": lambda: find_skin(seen, self.faces, seen.shape[1] / self.size.width, looking),
            "people": lambda: self._people(looking),
            "subject": lambda: self._subject(part, looking),
            "background": lambda: _rest(self._subject(part, looking)),
        }
        plane = finders[part.what]()
        if plane is None:
            raise TakeError(_NOT_FOUND[part.what])
        if haired:
            plane = self._to_the_hair(plane, part.hair, run.between(_WITHOUT_HAIR, 1))
        run.progress(1.0)
        return part.model_copy(update={"plane": text_of(plane)})

    def _to_the_hair(self, plane: Plane, share: float, run: Run) -> Plane:
        """A plane told apart more finely along its outline, at a larger size, within ``share`` % of the long side."""
        size = self.stage.size.fitted(HAIR_SIDE)
        pixels = resized(self.stage, size).render(size.region, run)
        colours = screen_samples(pixels, self.profile).astype(np.float32) / np.float32(255)
        larger = cv2.resize(plane, (size.width, size.height), interpolation=cv2.INTER_LINEAR)
        band = max(2, round(share / 100 * max(size.width, size.height)))
        return matted(np.asarray(larger, np.float32), colours, band, run)

    def _people(self, run: Run) -> Plane | None:
        sure = [face for face in self.faces if face.sure]
        return find_people(self.seen, sure, self.seen.shape[1] / self.size.width, run)

    def _subject(self, part: Found, run: Run) -> Plane | None:
        """What is boxed in or painted over; or else people, if they are large enough to be the subject; or what stands out."""
        box = self._box(part)
        hints = self._hints(part)
        if box is None and hints is None and self.faces:
            people = self._people(run.between(0, 0.5))
            if people is not None and people.mean() > _PEOPLE:
                return people
            run = run.between(0.5, 1)
        return find_subject(self.seen, run, box, hints)

    def _hints(self, part: Found) -> Hints | None:
        """Where strokes lie that say what the subject is; of two over each other the later one counts."""
        if not part.hints:
            return None
        height, width = self.seen.shape[:2]
        whole = Region(0, 0, width, height)
        back = Mapping().reduced(self.size, Size(width, height))
        subject, rest = np.zeros((height, width), np.bool_), np.zeros((height, width), np.bool_)
        for stroke in part.hints:
            if (reached := touched(stroke, whole, back)) is None:
                continue
            where = reached.slices(whole)
            under = weight(stroke, reached, back) > _UNDER
            (rest if stroke.erase else subject)[where] |= under
            (subject if stroke.erase else rest)[where] &= ~under
        return Hints(subject, rest) if subject.any() or rest.any() else None

    def _box(self, part: Found) -> Region | None:
        if part.box is None:
            return None
        height, width = self.seen.shape[:2]
        left, top, right, bottom = part.box
        left, right = sorted((left, right))
        top, bottom = sorted((top, bottom))
        return Region.between(round(left * width), round(top * height), round(right * width), round(bottom * height))


def _rest(subject: Plane | None) -> Plane | None:
    return None if subject is None else 1 - subject


def to_be_found(steps: Iterable[AnyStep]) -> bool:
    """Whether parts of masks are there that have to be found first."""
    parts = [part for step in steps if step.mask is not None for part in step.mask.parts]
    return any(isinstance(part, Found) and not part.plane for part in parts)


def all_found(steps: Sequence[AnyStep], look: Look, run: Run) -> tuple[list[AnyStep], list[str]]:
    """The steps with all parts of their masks found, and a sentence for each that was not; it stays empty there."""
    found: dict[str, Found | None] = {}
    missing: list[str] = []

    def of(part: Found) -> Found:
        name = part.model_dump_json(include={"what", "box", "hints"})
        if name not in found:
            try:
                found[name] = look.find(part, run)
            except TakeError as error:
                found[name] = None
                missing.append(str(error))
        seen = found[name]
        return part if seen is None else part.model_copy(update={"plane": seen.plane})

    done: list[AnyStep] = []
    for step in steps:
        if step.mask is None:
            done.append(step)
            continue
        parts = [of(part) if isinstance(part, Found) and not part.plane else part for part in step.mask.parts]
        done.append(step.model_copy(update={"mask": step.mask.model_copy(update={"parts": parts})}))
    return done, missing
