"""Pictures that are laid over surfaces, from PNG, JPEG, WebP, TIFF and OpenEXR files.

Files are decoded by Pillow, those of 16 bits by PyAV, and OpenEXR by its own library. A size is read from the
header and refused before anything is unpacked. Colours are brought to sRGB by the profile that a file of 8
bits carries, and the picture is turned upright as its EXIF says.
"""

import io
import math
import warnings
from collections.abc import Mapping, Sequence
from typing import Any

import av
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageCms, ImageOps, UnidentifiedImageError
from scipy.ndimage import gaussian_filter

from halvex.core.assets import Asset, Assets
from halvex.core.memory import kept
from halvex.core.optics.colour import linear_to_srgb, srgb_to_linear
from halvex.core.optics.texels import (
    LINEAR,
    NO_PICTURES,
    Pictures,
    Pyramid,
    levels_of,
    light_of,
    pyramid_of_eight,
    pyramid_of_light,
)
from halvex.core.piece.model import Piece
from halvex.core.piece.source import pictures_in
from halvex.core.scene.panorama import EXR_MAGIC, SceneError, exr_pixels

LARGEST_PICTURE_BYTES = 128_000_000
MOST_PICTURE_PX = 50_000_000
LONGEST_PICTURE_PX = 30_000
# Of OpenEXR files, brighter light is clipped.
BRIGHTEST = 1024.0
FORMATS = {"PNG": ".png", "JPEG": ".jpg", "WEBP": ".webp", "TIFF": ".tiff"}
_SUFFIXES_AS_WRITTEN = "PNG, JPEG, WebP, TIFF or OpenEXR"
_DEEP_MODES = ("I;16", "I;16B", "I;16L", "I", "F")
# What stands for a picture that is missing: a checker, in texels.
_CHECKER_TEXELS, _CHECKER_SQUARES = 64, 8
# Texels that a blur spreads over at the least: fewer would show as squares.
_FINEST_BLUR = 4.0


def read_picture(data: bytes) -> Pyramid:
    """The pyramid of a picture file. Raises SceneError that says what to do."""
    if len(data) > LARGEST_PICTURE_BYTES:
        raise SceneError(f"the picture is over {LARGEST_PICTURE_BYTES // 10**6} MB; save it smaller")
    if data[:4] == EXR_MAGIC:
        return pyramid_of_light(_open_exr(data))
    try:
        with warnings.catch_warnings():
            # The size is checked here, by our own bounds; what is odd but can be read is no matter.
            warnings.simplefilter("ignore")
            with Image.open(io.BytesIO(data), formats=tuple(FORMATS)) as image:
                return _pyramid(image, data)
    except SceneError:
        raise
    except UnidentifiedImageError:
        raise SceneError(f"this is no picture that Halvex reads; save it as {_SUFFIXES_AS_WRITTEN}") from None
    except Image.DecompressionBombError:
        raise SceneError(_too_large("far too many")) from None
    except Exception as fault:  # the library raises several kinds of its own
        raise SceneError(_broken(fault)) from None


def _broken(fault: Exception) -> str:
    return f"the picture cannot be read to its end ({fault!s:.120}); save it again"


def suffix_of(data: bytes) -> tuple[str, str]:
    """(suffix, media type) of a picture that `read_picture` reads."""
    if data[:4] == EXR_MAGIC:
        return ".exr", "image/x-exr"
    with Image.open(io.BytesIO(data), formats=tuple(FORMATS)) as image:
        kind = str(image.format)
    return FORMATS[kind], f"image/{kind.lower()}"


def _too_large(size: str) -> str:
    return (
        f"a picture has {MOST_PICTURE_PX // 10**6} megapixels and sides of {LONGEST_PICTURE_PX} px at most; "
        f"this one has {size}: save it smaller"
    )


def _check_size(width: int, height: int) -> None:
    """Refuse a declared size before anything is unpacked."""
    if width < 1 or height < 1:
        raise SceneError("the picture has no pixels; save it again")
    if width * height > MOST_PICTURE_PX or max(width, height) > LONGEST_PICTURE_PX:
        raise SceneError(_too_large(f"{width} × {height}"))


def _pyramid(image: Image.Image, data: bytes) -> Pyramid:
    _check_size(*image.size)
    if getattr(image, "n_frames", 1) > 1:
        raise SceneError("the picture is animated, or holds several; save one of them by itself")
    if image.mode == "CMYK" and not image.info.get("icc_profile"):
        raise SceneError("the picture is in CMYK without a profile; save it in RGB")
    if image.mode in _DEEP_MODES or _is_deep(image, data):
        return pyramid_of_light(_deep(image, data))
    ImageOps.exif_transpose(image, in_place=True)
    return pyramid_of_eight(_premultiplied(_in_srgb(image)))


def _in_srgb(image: Image.Image) -> NDArray[np.uint8]:
    """A picture (h, w, 4) of 8 bits in sRGB, by the profile that it carries."""
    profile = image.info.get("icc_profile")
    # A palette has its opacities beside it, and colours only once it is unpacked.
    if image.mode in ("P", "PA", "LA", "La", "RGBa") or "transparency" in image.info:
        image = image.convert("RGBA")
    opacity = image.getchannel("A") if "A" in image.getbands() else None
    colours = image.convert("RGB") if opacity is not None or image.mode not in ("RGB", "CMYK", "L") else image
    if profile:
        colours = _converted(colours, profile)
    whole = colours.convert("RGB").convert("RGBA")
    if opacity is not None:
        whole.putalpha(opacity)
    return np.asarray(whole)


def _converted(image: Image.Image, profile: bytes) -> Image.Image:
    """A picture by its profile in sRGB; as it is where that does not fit, as browsers take it."""
    try:
        own = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        done = ImageCms.profileToProfile(image, own, ImageCms.createProfile("sRGB"), outputMode="RGB")
    except (ImageCms.PyCMSError, OSError, ValueError):
        if image.mode == "CMYK":
            raise SceneError("the profile of the picture in CMYK cannot be read; save it in RGB") from None
        return image
    return done if done is not None else image


def _premultiplied(straight: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Encoded colours (h, w, 4) times their opacity in linear light."""
    opacity = straight[..., 3]
    seen = opacity < 255
    if seen.any():
        light = LINEAR[straight[seen][:, :3]] * (straight[seen][:, 3:] / 255)
        straight = straight.copy()
        straight[seen, :3] = np.round(linear_to_srgb(light) * 255)
    return straight


def _is_deep(image: Image.Image, data: bytes) -> bool:
    """Whether a file holds more than 8 bits a channel, of which Pillow would drop half."""
    if image.format == "PNG":
        return len(data) > 24 and data[24] == 16
    bits = getattr(image, "tag_v2", {}).get(258, (8,)) if image.format == "TIFF" else (8,)
    return max(bits if isinstance(bits, tuple) else (bits,)) > 8


def _deep(image: Image.Image, data: bytes) -> NDArray[np.float32]:
    """Premultiplied linear light and opacity (h, w, 4) of a picture of 16 bits, upright."""
    codec = {"PNG": "png_pipe", "TIFF": "tiff_pipe"}.get(str(image.format))
    if codec is None or image.mode == "F":
        raise SceneError("a picture of floating point is an OpenEXR file; save it as one")
    try:
        with av.open(io.BytesIO(data), mode="r", format=codec) as container:
            frame = next(container.decode(video=0))
            values = frame.to_ndarray(format="rgba64le")
    except (av.FFmpegError, StopIteration, ValueError) as fault:
        raise SceneError(_broken(fault)) from None
    turned = _upright(values, int(image.getexif().get(0x0112, 1)))
    light = np.empty(turned.shape, np.float32)
    light[..., 3] = turned[..., 3] / 65535
    light[..., :3] = srgb_to_linear(turned[..., :3] / 65535) * light[..., 3:]
    return light


def _upright(values: NDArray[Any], orientation: int) -> NDArray[Any]:
    """A picture as EXIF's orientation 1 to 8 turns it (CIPA DC-008, 4.6.4)."""
    if orientation in (5, 6, 7, 8):
        values = values.swapaxes(0, 1)
    if orientation in (2, 3, 6, 7):
        values = values[:, ::-1]
    if orientation in (3, 4, 7, 8):
        values = values[::-1]
    return values


def _open_exr(data: bytes) -> NDArray[np.float32]:
    """Premultiplied linear light and opacity (h, w, 4) of an OpenEXR file."""
    pixels = exr_pixels(data, ("RGBA", "RGB", "Y"), _check_size)
    if pixels is not None and pixels.ndim == 2:
        pixels = np.repeat(pixels[..., None], 3, axis=-1)
    if pixels is None:
        raise SceneError("the OpenEXR file has no channels R, G and B, and no Y")
    light = np.ones((*pixels.shape[:2], 4), np.float32)
    light[..., : pixels.shape[2]] = pixels
    if not np.isfinite(light).all():
        raise SceneError("the picture holds values that are no numbers; save it again")
    return np.clip(light, 0.0, BRIGHTEST)


@kept
def open_picture(file: Asset) -> Pyramid:
    """The pyramid of a picture file. Raises SceneError, OSError."""
    return read_picture(file.read())


@kept
def _packed(files: tuple[tuple[str, Asset | None], ...], more: "_Made") -> Pictures:
    """The pictures of these names, a checker for those that are missing; and more."""
    opened = {name: checker() if file is None else open_or_checker(file) for name, file in files}
    return Pictures.of(opened | more.pictures)


class _Made:
    """Pictures that come from no file, the same as others if their names are: these say what they hold."""

    def __init__(self, pictures: Mapping[str, Pyramid]):
        self.pictures = dict(pictures)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Made) and self.pictures.keys() == other.pictures.keys()

    def __hash__(self) -> int:
        return hash(tuple(self.pictures))


def open_or_checker(file: Asset) -> Pyramid:
    """A picture, or the checker for one that can no longer be read."""
    try:
        return open_picture(file)
    except (OSError, SceneError):
        return checker()


@kept
def blurred(file: Asset, share: float, edges: str) -> Pyramid:
    """A picture blurred by a Gaussian whose deviation is a share of its longer side; the checker for one that
    can no longer be read. What lies past its edges is as they are laid."""
    pyramid = open_or_checker(file)
    deviation = share * max(pyramid.sizes[0])
    levels = levels_of(pyramid)
    # A level whose texels are far smaller than the blur holds all that is left.
    number = min(max(int(math.log2(max(deviation / _FINEST_BLUR, 1.0))), 0), len(levels) - 1)
    light = light_of(pyramid, levels[number])
    sigma = deviation / 2**number
    mode = {"tiled": "wrap", "mirrored": "reflect", "held": "nearest", "clear": "constant"}[edges]
    return pyramid_of_light(np.asarray(gaussian_filter(light, (sigma, sigma, 0), mode=mode), np.float32))


@kept
def checker() -> Pyramid:
    """What stands in the place of a picture that is missing."""
    at = np.arange(_CHECKER_TEXELS) * _CHECKER_SQUARES // _CHECKER_TEXELS
    dark = (at[:, None] + at[None, :]) % 2 == 1
    shade = np.where(dark, 96, 160)
    return pyramid_of_eight(np.dstack([shade, shade, shade, np.full_like(shade, 255)]).astype(np.uint8))


def pictures_named(names: Sequence[str], assets: Assets, made: Mapping[str, Pyramid]) -> tuple[Pictures, str]:
    """(the pictures of these names as the renderer reads them, a key of their contents); those that were
    `made` are named by their content."""
    if not names:
        return NO_PICTURES, ""
    files = tuple((name, assets.pictures.get(name)) for name in names if name not in made)
    key = "".join(f"{name}:{_digest(file)};" for name, file in files)
    return _packed(files, _Made(made)), ";".join([key, *made])


def _digest(file: Asset | None) -> str:
    try:
        return file.digest if file else ""
    except OSError:
        return ""


def small_picture(file: Asset, most_px: int) -> NDArray[np.float32]:
    """A picture (h, w, 3), encoded in 0 to 1 and over white, with sides of `most_px` at most. Raises
    SceneError."""
    try:
        pyramid = open_picture(file)
    except OSError as fault:
        raise SceneError(f"the picture {file.name} cannot be read ({fault.strerror}); add it again") from None
    levels = levels_of(pyramid)
    light = light_of(pyramid, next(level for level in levels if max(level.shape[:2]) <= most_px))
    seen = light[..., :3] + 1 - light[..., 3:]
    return np.asarray(linear_to_srgb(np.clip(seen, 0, 1)), np.float32)


def missing_pictures(piece: Piece, assets: Assets) -> list[str]:
    """The names of the pictures in a piece that are not there."""
    return [name for name in pictures_in(piece) if name not in assets.pictures]
