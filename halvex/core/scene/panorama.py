"""Panoramas: pictures of all directions, from Radiance HDR and OpenEXR files.

Files are decoded by PyAV and OpenEXR, and checked before: the size is read from the header and refused
before anything is unpacked.
"""

import io
import re
import tempfile
from collections.abc import Callable
from typing import Any

import av
import numpy as np
import OpenEXR
from numpy.typing import NDArray

from halvex.core.assets import Asset
from halvex.core.memory import kept

EXR_MAGIC = b"\x76\x2f\x31\x01"
LARGEST_FILE_BYTES = 128_000_000
LARGEST_SIDE_PX = 16_384
# An 8K panorama; one decoded takes 400 MB.
MOST_PX = 8192 * 4096
# What is kept: more shows nowhere but in a perfect mirror, and costs memory.
KEPT_HEIGHT_PX = 1024
# The sun itself at noon is about this bright beside a white card.
BRIGHTEST = 1.0e5

Array = NDArray[np.float32]


class SceneError(ValueError):
    """Something a scene refers to is missing or cannot be read; the message says what would do."""


@kept
def open_panorama(file: Asset) -> Array:
    """The picture (H, W, 3) of a panorama. Raises SceneError."""
    try:
        data = file.read()
    except OSError as fault:
        raise SceneError(
            f"the panorama {file.path.stem} cannot be read ({fault.strerror}); add it again"
        ) from None
    return read_panorama(data)


def read_panorama(data: bytes) -> Array:
    """A latitude-longitude picture (H, W, 3) of linear light from the bytes of a file, brought down
    to KEPT_HEIGHT_PX.

    Raises SceneError for what is no such picture or too large.
    """
    if len(data) > LARGEST_FILE_BYTES:
        raise SceneError(f"the panorama is over {LARGEST_FILE_BYTES // 10**6} MB; save it smaller")
    if data[:4] == EXR_MAGIC:
        picture = _open_exr(data)
    elif data[:2] == b"#?":
        picture = _radiance(data)
    else:
        raise SceneError("a panorama is a Radiance HDR or an OpenEXR file; this is neither")
    return picture


def _check_size(width: int, height: int) -> None:
    """Refuse a declared size before anything is unpacked."""
    if not (16 <= width <= LARGEST_SIDE_PX and 8 <= height <= LARGEST_SIDE_PX):
        raise SceneError(
            f"a panorama has sides of 16 to {LARGEST_SIDE_PX} px; this one is {width} × {height}"
        )
    if width * height > MOST_PX:
        raise SceneError(
            f"a panorama has {MOST_PX // 10**6} megapixels at most (8192 × 4096); this one is "
            f"{width} × {height}"
        )
    if not 1.5 <= width / height <= 2.5:
        raise SceneError(f"a panorama is twice as wide as high; this one is {width} × {height}")


def _radiance(data: bytes) -> Array:
    size = re.search(rb"\n-Y (\d{1,9}) \+X (\d{1,9})\n", data[:4096])
    if not size:
        raise SceneError("the Radiance file has no size, or lies on its side; save it upright")
    _check_size(int(size[2]), int(size[1]))
    try:
        with av.open(io.BytesIO(data), mode="r", format="hdr_pipe") as container:
            frame = next(container.decode(video=0))
            # The decoder's planes are green, blue, red.
            planes = [_plane(frame, index) for index in (2, 0, 1)]
            return np.stack([_brought_down(plane) for plane in planes], axis=-1)
    except (av.FFmpegError, StopIteration, ValueError) as fault:
        raise SceneError(f"the Radiance file cannot be read: {fault}") from None


def _plane(frame: av.VideoFrame, index: int) -> Array:
    """One colour (H, W) of a decoded picture, in place."""
    if frame.format.name != "gbrpf32le":
        raise SceneError(f"the Radiance file is decoded as {frame.format.name}; save it again")
    plane = frame.planes[index]
    return np.frombuffer(memoryview(plane), np.float32).reshape(plane.height, plane.line_size // 4)[
        :, : plane.width
    ]


def _open_exr(data: bytes) -> Array:
    pixels = exr_pixels(data, ("RGB", "RGBA"), _check_size)
    if pixels is None:
        raise SceneError("the OpenEXR file has no channels R, G and B")
    return np.stack([_brought_down(pixels[..., c]) for c in range(3)], axis=-1)


def exr_pixels(
    data: bytes, names: tuple[str, ...], check_size: Callable[[int, int], None]
) -> NDArray[Any] | None:
    """The pixels of an OpenEXR file's first channels of these names, None where it has none; `check_size` is
    given the declared width and height before they are unpacked. Raises SceneError."""
    with tempfile.NamedTemporaryFile(suffix=".exr") as file:
        file.write(data)
        file.flush()
        try:
            with OpenEXR.File(file.name, header_only=True) as head:
                low, high = head.header()["dataWindow"]
                check_size(int(high[0] - low[0] + 1), int(high[1] - low[1] + 1))
            with OpenEXR.File(file.name) as exr:
                channels = exr.channels()
                return next((channels[name].pixels for name in names if name in channels), None)
        except SceneError:
            raise
        except Exception as fault:  # the library raises several kinds of its own
            raise SceneError(f"the OpenEXR file cannot be read: {fault!s:.120}") from None


def _brought_down(colour: NDArray[Any]) -> Array:
    """One colour (H, W) of a panorama as the means of blocks, KEPT_HEIGHT_PX rows of them at most.

    Raises SceneError for values that are no numbers.
    """
    step = -(-colour.shape[0] // KEPT_HEIGHT_PX)
    height, width = colour.shape[0] // step, colour.shape[1] // step
    down = np.empty((height, width), np.float32)
    for row in range(height):
        rows = np.asarray(colour[row * step : (row + 1) * step, : width * step], np.float32)
        if not np.isfinite(rows).all():
            raise SceneError("the panorama holds values that are no numbers; save it again")
        down[row] = np.clip(rows, 0.0, BRIGHTEST).reshape(step, width, step).mean(axis=(0, 2))
    return down
