"""Small versions of a picture for shelves and lists."""

from __future__ import annotations

from kitecore.colour.screen import screen_image
from kitecore.errors import PictureError
from kitecore.files.source import Source
from kitecore.pipeline.run import Run
from kitecore.pipeline.stage import ResampledStage


def first_preview(source: Source, side: int) -> bytes:
    """As :func:`preview`, of a camera raw from the JPEG its camera made, if it has one: at once."""
    image = source.raw.camera_picture() if source.raw else None
    if image is None:
        return preview(source, side)
    size = source.size.fitted(side)
    content: bytes = image.thumbnail_image(size.width, height=size.height, size="force").webpsave_buffer(
        Q=85, keep="none"
    )
    return content


def preview(source: Source, side: int) -> bytes:
    """An sRGB WebP of the whole picture, at most ``side`` pixels long. A broken profile is left out of account."""
    long_side = max(source.size.width, source.size.height)
    size = source.size.fitted(side)
    reduced = source.stage(max(0, (long_side // (2 * side)).bit_length() - 1))
    pixels = ResampledStage(reduced, size).render(size.region, Run())
    try:
        image = screen_image(pixels, source.header.profile)
    except PictureError:
        image = screen_image(pixels, None)
    content: bytes = image.webpsave_buffer(Q=85, keep="none")
    return content
