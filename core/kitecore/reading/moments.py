"""Moments of a clip in which people look well: eyes open, turned to the camera, with a light in them."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from pydantic import BaseModel, Field

from kitecore.colour.screen import screen_samples
from kitecore.faces import Face, find_faces
from kitecore.faces.glance import glance_of
from kitecore.files.clip.clip import Clip
from kitecore.files.clip.curve import peaks
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.run import Run

#: Frames are looked at about so long, px, and so many of them at most: a look takes a third of a second.
_LOOK_SIDE, _MOST_FRAMES = 960, 240
#: Where so many frames from all over a clip show no face, none is looked for in the others.
_TRIED = 16
#: Faces narrower than this share of the widest stand in the background.
_BESIDE = 0.5


class Moment(BaseModel):
    """The faces of a frame; each figure 0..1 and that of the face for which it is least."""

    frame: int
    faces: int = Field(description="How many there are, passers-by left out.")
    open: float = Field(description="How far eyes are open.")
    towards: float = Field(description="How nearly they look at the camera.")
    light: float = Field(description="How clear their catch-light is.")
    good: float = Field(description="All of it together, 0 where there is no face.")


def moments_of(clip: Clip, run: Run) -> list[Moment]:
    """The moments of frames evenly spread over a clip; none if it shows no faces.

    Raises Cancelled, and PictureError where a frame is broken.
    """
    count = clip.facts.frames
    step = math.ceil(count / _MOST_FRAMES)
    places = list(range(0, count, step))
    tried = {int(place) for place in np.linspace(0, len(places) - 1, min(_TRIED, len(places)))}
    found: dict[int, Moment] = {}
    searching, looking = run.between(0, 0.1), run.between(0.1, 1)
    for done, place in enumerate(sorted(tried), 1):
        found[place] = _moment(clip, places[place], run)
        searching.progress(done / len(tried))
    if not any(moment.faces for moment in found.values()):
        return []
    for place, frame in enumerate(places):
        if place not in found:
            found[place] = _moment(clip, frame, run)
        looking.progress((place + 1) / len(places))
    return [found[place] for place in range(len(places))]


def _moment(clip: Clip, frame: int, run: Run) -> Moment:
    run.check()
    seen = np.asarray(screen_samples(clip.look(frame, _LOOK_SIDE), clip.profile), np.float32) / np.float32(255)
    return moment_in(seen, frame, run)


def moment_in(seen: Pixels, frame: int, run: Run) -> Moment:
    """The moment of a frame, H×W×3 as a screen shows it, 0..1. Raises Cancelled."""
    glances = [glance for face in _in_front(find_faces(seen, run)) if (glance := glance_of(seen, face.square))]
    if not glances:
        return Moment(frame=frame, faces=0, open=0, towards=0, light=0, good=0)

    def least(figures: Sequence[float]) -> float:
        return round(min(figures), 3)

    return Moment(
        frame=frame, faces=len(glances), open=least([one.open for one in glances]),
        towards=least([one.towards for one in glances]), light=least([one.light for one in glances]),
        good=least([one.good for one in glances]),
    )  # fmt: skip


def _in_front(faces: Sequence[Face]) -> list[Face]:
    return [face for face in faces if face.sure and face.width >= _BESIDE * faces[0].width]


def best_moments(moments: Sequence[Moment], sharpness: Sequence[float], rate: float) -> list[int]:
    """The frames to take, best first, none close to another: those whose faces are good and which are sharp as well."""
    if not moments:
        return []
    step = moments[1].frame - moments[0].frame if len(moments) > 1 else 1
    sharpest = max(sharpness) or 1.0
    worth = [moment.good * math.sqrt(sharpness[moment.frame] / sharpest) for moment in moments]
    return [moments[place].frame for place in peaks(worth, rate / step)]
