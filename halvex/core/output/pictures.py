"""Picture files: PNG of 8 and 16 bits, JPEG, WebP, TIFF and OpenEXR.

All but OpenEXR hold sRGB values; OpenEXR holds the linear light before exposure and tone mapping, and
separate layers as channels named after them (`light.key.R`, `mask.face.Y`), the picture itself in R, G, B.
"""

import io
import os
import tempfile
import zlib
from collections.abc import Callable

import numpy as np
import OpenEXR
import png
from numpy.typing import NDArray
from PIL import Image, PngImagePlugin

from halvex.core.finish.picture import Picture

INCHES_PER_METRE = 1 / 0.0254
# sRGB chunk: rendering intent 0, perceptual (W3C PNG, third edition).
PERCEPTUAL = b"\x00"
JPEG_QUALITY = 95
WEBP_QUALITY = 95
ROWS_AT_ONCE = 256
# Values this near to one of 8 bits, in steps of these, are taken for it.
DITHER_MARGIN = 0.02

Encoder = Callable[[Picture, float], bytes]


def encode(picture: Picture, kind: str, *, ppi: float = 96.0, depth: int = 8) -> bytes:
    """The picture as a file of `kind` (png, jpg, webp, tiff, exr); `depth` 8 or 16 bits, for PNG.

    Formats without alpha (jpg) must be given a picture without it. Raises ValueError.
    """
    if kind not in FORMATS:
        raise ValueError(f"there is no picture format “{kind}”; take one of {', '.join(FORMATS)}")
    if kind == "jpg" and picture.alpha is not None:
        raise ValueError("JPEG holds no transparency; take png, webp, tiff or exr")
    if kind == "png" and depth == 16:
        return _png16(picture, ppi)
    return FORMATS[kind](picture, ppi)


def to_integers(picture: Picture, depth: int = 8) -> NDArray[np.uint8] | NDArray[np.uint16]:
    """SRGB values (h, w, 3 or 4) as integers of 8 or 16 bits. Colours of 8 bits are dithered, so that smooth
    ones have no bands; what has a value of its own in 8 bits keeps it."""
    height, width = picture.display.shape[:2]
    kind, highest = (np.uint8, 255) if depth == 8 else (np.uint16, 65535)
    pixels = np.empty((height, width, 3 if picture.alpha is None else 4), kind)
    # Row by row of a large cover: its values as floats all at once would be four times the file in memory.
    for top in range(0, height, ROWS_AT_ONCE):
        rows = slice(top, top + ROWS_AT_ONCE)
        rounding = _thresholds(rows, height, width) if depth == 8 else np.float32(0.5)
        pixels[rows, :, :3] = picture.display[rows] * np.float32(highest) + rounding
        if picture.alpha is not None:
            pixels[rows, :, 3] = picture.alpha[rows] * np.float32(highest) + np.float32(0.5)
    return pixels


def _thresholds(rows: slice, height: int, width: int) -> NDArray[np.float32]:
    """What is added before values are cut to integers (rows, width, 1), between 0 and 1 and far apart from
    pixel to pixel: interleaved gradient noise (Jimenez, SIGGRAPH 2014)."""
    y, x = np.arange(rows.start, min(rows.stop, height))[:, None], np.arange(width)
    spread = 52.9829189 * ((0.06711056 * x + 0.00583715 * y) % 1.0) % 1.0
    return np.asarray(DITHER_MARGIN + (1 - 2 * DITHER_MARGIN) * spread, np.float32)[..., None]


def _pixels_per_metre(ppi: float) -> int:
    return round(ppi * INCHES_PER_METRE)


def _image(picture: Picture) -> Image.Image:
    return Image.fromarray(to_integers(picture))


def _png(picture: Picture, ppi: float) -> bytes:
    info = PngImagePlugin.PngInfo()
    info.add(b"sRGB", PERCEPTUAL)
    out = io.BytesIO()
    _image(picture).save(out, "PNG", pnginfo=info, dpi=(ppi, ppi), compress_level=6)
    return out.getvalue()


def _png16(picture: Picture, ppi: float) -> bytes:
    pixels = to_integers(picture, 16)
    height, width, channels = pixels.shape
    density = _pixels_per_metre(ppi)
    header = (
        width.to_bytes(4, "big") + height.to_bytes(4, "big") + bytes([16, 6 if channels == 4 else 2, 0, 0, 0])
    )
    rows = pixels.astype(">u2").reshape(height, -1).view(np.uint8)
    unfiltered = np.hstack([np.zeros((height, 1), np.uint8), rows])
    out = io.BytesIO()
    physical = density.to_bytes(4, "big") * 2 + b"\x01"
    chunks = [
        (b"IHDR", header),
        (b"sRGB", PERCEPTUAL),
        (b"pHYs", physical),
        (b"IDAT", zlib.compress(unfiltered.tobytes(), 6)),
        (b"IEND", b""),
    ]
    png.write_chunks(out, chunks)
    return out.getvalue()


def _jpeg(picture: Picture, ppi: float) -> bytes:
    out = io.BytesIO()
    _image(picture).save(out, "JPEG", quality=JPEG_QUALITY, subsampling=0, dpi=(ppi, ppi))
    return out.getvalue()


def _webp(picture: Picture, ppi: float) -> bytes:
    out = io.BytesIO()
    _image(picture).save(out, "WEBP", quality=WEBP_QUALITY)
    return out.getvalue()


def _tiff(picture: Picture, ppi: float) -> bytes:
    out = io.BytesIO()
    _image(picture).save(out, "TIFF", compression="tiff_deflate", dpi=(ppi, ppi))
    return out.getvalue()


def _exr(picture: Picture, ppi: float) -> bytes:
    linear = picture.linear
    if picture.alpha is None:
        channels = {"RGB": np.ascontiguousarray(linear)}
    else:
        # OpenEXR's colour is premultiplied by its alpha.
        channels = {
            "RGBA": np.ascontiguousarray(np.dstack([linear * picture.alpha[..., None], picture.alpha]))
        }
    for name, image in (picture.layers or {}).items():
        letters = "RGB" if image.ndim == 3 else "Y"
        planes = np.moveaxis(image, -1, 0) if image.ndim == 3 else image[None]
        channels |= {
            f"{name}.{letter}": np.ascontiguousarray(plane)
            for letter, plane in zip(letters, planes, strict=True)
        }
    header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage, "xDensity": float(ppi)}
    handle, path = tempfile.mkstemp(suffix=".exr")
    os.close(handle)
    try:
        with OpenEXR.File(header, channels) as file:
            file.write(path)
        with open(path, "rb") as written:
            return written.read()
    finally:
        os.unlink(path)


FORMATS: dict[str, Encoder] = {"png": _png, "jpg": _jpeg, "webp": _webp, "tiff": _tiff, "exr": _exr}
MEDIA_TYPES = {
    "png": "image/png",
    "jpg": "image/jpeg",
    "webp": "image/webp",
    "tiff": "image/tiff",
    "exr": "image/x-exr",
}
