"""Develop: a camera raw's white balance, exposure and highlights, in linear light, before anything else."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal, Self

import numpy as np
from pydantic import Field

from kitecore.colour.below_white import below_white
from kitecore.colour.transfer import transfer_of
from kitecore.errors import TakeError
from kitecore.files.raw.camera import COOLEST, MOST_TINT, WARMEST, Camera, Multipliers
from kitecore.files.raw.demosaic import Quality
from kitecore.files.raw.developing import Way
from kitecore.files.raw.picture import RawPicture, RawStage
from kitecore.pipeline.geometry import Size
from kitecore.pipeline.pixels import Pixels
from kitecore.pipeline.stage import Stage
from kitecore.reading.tones import ToneReading
from kitecore.steps.base import Belongs, Step
from kitecore.steps.pointwise import PointwiseStage
from kitecore.values import Percent

#: Light, of white, from which on what is recovered beyond white is fitted below it.
_SHOULDER = 0.9


class Develop(Step):
    """Balances and exposes a raw in the linear colours of its camera. The picture as it comes is balanced as it was shot.

    At ``highlights`` 0 what is beyond white is cut off. At 100 the colours a full sensor lacks are made up for by those it has
    and by what lies around, and what is beyond white is fitted below it, its hue unchanged.
    """

    title: ClassVar[str] = "develop"
    purpose: ClassVar[str] = "White balance, exposure, highlights and lens of a camera raw"
    belongs: ClassVar[Belongs] = "raw"
    takes_mask: ClassVar[bool] = False
    starts_from = ("grey",)

    kind: Literal["develop"] = "develop"
    white: Annotated[Literal["as shot", "kelvin", "grey"], Field(description="What the white balance goes by.")] = (
        "as shot"
    )
    kelvin: Annotated[float, Field(ge=WARMEST, le=COOLEST, description="Temperature of the light, with “kelvin”.")] = (
        5500
    )
    tint: Annotated[
        float, Field(ge=-MOST_TINT, le=MOST_TINT, description="How much greener it is, thousandths of u, v 1960.")
    ] = 0.0
    grey: Annotated[
        tuple[float, float, float] | None,
        Field(description="With “grey”: linear light, as shot, of a place that should be grey."),
    ] = None
    ev: Annotated[float, Field(ge=-6, le=6, description="Stops; 1 is twice the light.")] = 0.0
    highlights: Annotated[Percent, Field(description="How much of what is beyond white comes back.")] = 100.0
    quality: Annotated[Quality, Field(description="How the mosaic of the sensor is interpolated.")] = "fine"
    lens: Annotated[bool, Field(description="Undo distortion, darker corners and fringes by the lens database.")] = True
    profile: Annotated[
        str, Field(max_length=160, description="Profile of the lens; empty: the one that was found.")
    ] = ""

    def result_size(self, size: Size) -> Size:
        return size

    def work(self, size: Size) -> float:
        return 90.0 * size.pixels

    def at(self, share: float) -> Self:
        return self.model_copy(update={"ev": self.ev * share})

    def portable(self) -> Self:
        own = {"grey": None, "white": "as shot"} if self.white == "grey" else {}
        return self.model_copy(update={**own, "profile": ""})

    def started(self, seen: ToneReading, place: tuple[float, float, float] | None = None) -> tuple[Self, list[str]]:
        if place is None or min(place) <= 0:
            return self, ["that place is too dark to tell what is grey"]
        red, green, blue = (value / place[1] for value in place)
        told = f"the place has {red:.2f} : {green:.2f} : {blue:.2f} of red, green and blue light as it was shot"
        return self.model_copy(update={"white": "grey", "grey": tuple(round(value, 5) for value in place)}), [told]

    def did(self) -> str:
        parts = {
            "as shot": "white balance as shot",
            "kelvin": f"white balance for light of {self.kelvin:,.0f} K, tint {self.tint:+.3g}",
            "grey": "white balance by a place that should be grey",
        }[self.white]
        exposed = f", exposed by {self.ev:+.2g} EV" if self.ev else ""
        lens = f", lens corrected as a {self.profile}" if self.lens and self.profile else ""
        return f"developed from the camera's raw: {parts}{exposed}{lens}{'' if self.lens else ', lens not corrected'}"

    def way(self, raw: RawPicture) -> Way:
        """How the whole raw is developed for this."""
        return Way(self.quality, (self.profile or raw.lens or "") if self.lens else "")

    def multipliers(self, camera: Camera) -> Multipliers:
        """Of the sensor's colours, relative to green."""
        if self.white == "kelvin":
            return camera.multipliers(self.kelvin, self.tint)
        if self.white == "grey" and self.grey is not None:
            return camera.multipliers_of(self.grey) or camera.as_shot
        return camera.as_shot

    def stage(self, source: Stage, full: Size, result: Size) -> Stage:
        if not isinstance(source, RawStage):
            raise TakeError("Only a camera raw can be developed, and before any other step. Take this step off.")
        camera, developed = source.raw.camera, source.developed(self.way(source.raw))
        curve, to_wide = transfer_of(source.profile), camera.to_wide
        gains = np.divide(self.multipliers(camera), camera.as_shot)
        exposed = to_wide @ np.diag(gains * 2.0**self.ev) @ np.linalg.inv(to_wide)
        from_wide, back = (np.linalg.inv(to_wide).T.astype(np.float32), to_wide.T.astype(np.float32))
        # Nothing the sensor holds is beyond this in all of its colours.
        full_light = np.float32(2.0**self.ev * min(self.multipliers(camera)))
        share = np.float32(self.highlights / 100)

        def change(colours: Pixels) -> Pixels:
            light = (curve.light(colours).reshape(-1, 3) @ exposed.T.astype(np.float32)).reshape(colours.shape)
            recovered = below_white(light, _SHOULDER)
            if share < 1:
                cut = np.minimum(light.reshape(-1, 3) @ from_wide, full_light) @ back
                recovered = share * recovered + (1 - share) * cut.reshape(light.shape)
            return curve.coded(np.asarray(recovered, np.float32))

        return PointwiseStage(developed, change)
