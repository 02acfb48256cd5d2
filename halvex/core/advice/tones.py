"""Tones: how light the parts of a lettering are in the finished picture, measured on a small render.

Lightness is CIE L* (0 black, 100 the display's white), the mean over the pixels that a part fills. Bevels
that face up and bevels that face down are two parts.
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from halvex.core.finish.tone import to_display
from halvex.core.optics.colour import srgb_to_linear
from halvex.core.optics.tone import Curve
from halvex.core.piece.light import Studio
from halvex.core.piece.resolving import ResolvedPiece
from halvex.core.render.assembling import make_world
from halvex.core.render.film import Film, add_samples, light_levels
from halvex.core.render.work import shared_pool
from halvex.core.scene import Scene, build_scene
from halvex.core.scene.skies import card_picture
from halvex.core.scene.surroundings import make_surround, surround_of
from halvex.core.solids import PartOf

Array = NDArray[np.float64]

# The longer side of the measured picture in px, and its samples a pixel: means over parts need few.
SIDE_PX, SAMPLES = 176, 10
# A pixel belongs to a part that fills so much of it, to the backdrop where nothing else is seen; a bevel
# looks up or down where its normal rises or falls by more than this.
FILLED, WHOLE, LOOKS_UP = 0.5, 0.99, 0.2
# A part of fewer pixels has no tone worth saying.
FEWEST_PX = 12
# Of a part, so many pixels at most are counted.
MOST_PX = 400
CLIPPED_TONE = 99.0
# When tones are worth a word, and what is proposed then.
MOST_CLIPPED, DARK_FACE, CARRIES, APART, BEVEL_APART = 0.02, 35.0, 25.0, 15.0, 4.0
BRIGHT_FACE, GOOD_FACE = 78.0, 66.0
REGIONS = ("face", "upper bevel", "lower bevel", "return", "backdrop")
LUMINANCE = np.array([0.2126, 0.7152, 0.0722])
_EPSILON, _KAPPA = 216 / 24389, 24389 / 27


@dataclass(frozen=True)
class Region:
    """Pixels of a part: what each source gives them at its present strength (n, pixels, 3), and what no
    source changes (pixels, 3); linear light."""

    sources: Array
    rest: Array


@dataclass(frozen=True)
class Measured:
    """A small picture with its light apart.

    names (n,) of the sources: `lamp 0`, `card 2`, `room`, `glow`; regions by the names of the parts; exposure
    and tone curve of the piece.
    """

    names: tuple[str, ...]
    regions: dict[str, Region]
    exposure: float
    curve: Curve

    def tones(self, strengths: Array | None = None) -> dict[str, Array]:
        """L* (pixels,) of each region with the sources' strengths multiplied by these (n,)."""
        by = np.ones(len(self.names)) if strengths is None else strengths
        found = {}
        for name, region in self.regions.items():
            light = region.rest + np.tensordot(by, region.sources, axes=1)
            shown = to_display(light[None].astype(np.float32), self.exposure, self.curve)[0]
            found[name] = l_star(srgb_to_linear(shown.astype(float)) @ LUMINANCE)
        return found

    def lightness(self, strengths: Array | None = None) -> dict[str, float]:
        """Mean L* of each region."""
        return {name: float(tones.mean()) for name, tones in self.tones(strengths).items()}

    def clipped(self) -> dict[str, float]:
        """Share of each region that is shown as the display's white or next to it."""
        return {name: float((tones > CLIPPED_TONE).mean()) for name, tones in self.tones().items()}

    def spread(self) -> dict[str, float]:
        """How far L* spreads over each region: from its 5th to its 95th percentile."""
        return {
            name: float(np.subtract(*np.percentile(tones, (95, 5)))) for name, tones in self.tones().items()
        }


def l_star(luminance: Array) -> Array:
    """CIE 1976 L* of relative luminance (CIE 15).

    >>> float(np.round(l_star(np.array(0.18)), 1))
    49.5
    """
    return np.asarray(
        np.where(luminance > _EPSILON, 116 * np.cbrt(luminance) - 16, _KAPPA * luminance), float
    )


def luminance_of(lightness: float) -> float:
    """Relative luminance of an L*: the inverse of `l_star`."""
    return ((lightness + 16) / 116) ** 3 if lightness > _KAPPA * _EPSILON else lightness / _KAPPA


def measure(piece: ResolvedPiece, *, cards: bool = False) -> Measured:
    """A piece measured; with `cards`, each card of a studio is a source of its own.

    Raises LetteringError, SolidError, SceneError.
    """
    canvas = piece.canvas
    scale = SIDE_PX / max(canvas.width, canvas.height)
    width, height = max(round(canvas.width * scale), 8), max(round(canvas.height * scale), 8)
    scene = build_scene(piece, px_scale=scale, detail=1.0).for_picture(width, height, scale)
    surround, lamps = piece.light.surround, len(piece.light.lamps)
    standing = surround.cards if cards and isinstance(surround, Studio) else ()
    if standing:
        bare = make_surround(surround.model_copy(update={"cards": ()}))
        scene = replace(scene, surround=bare)
    film, levels = _sampled(scene, width, height)
    images = [film.share(light) * levels[light] for light in range(len(levels))]
    names = [*(f"lamp {n}" for n in range(lamps)), "room", *(["glow"] * (len(levels) - lamps - 1))]
    dark = replace(scene, lamps=scene.lamps._replace(level=np.zeros_like(scene.lamps.level)))
    for number, card in enumerate(standing):
        alone = surround_of(card_picture(card))._replace(level=scene.surround.level, turn=scene.surround.turn)
        lit, own = _sampled(replace(dark, surround=alone), width, height)
        images.append(lit.share(lamps) * own[lamps])
        names.append(f"card {number}")
    finish = scene.finish
    rest = film.flat * finish.flat_gain + film.through * finish.backdrop_light
    light, fixed = np.array(images, float).reshape(len(images), -1, 3), rest.astype(float).reshape(-1, 3)
    regions = {name: Region(light[:, pixels], fixed[pixels]) for name, pixels in _regions(film).items()}
    return Measured(tuple(names), regions, finish.exposure, finish.tone)


def _sampled(scene: Scene, width: int, height: int) -> tuple[Film, NDArray[np.float32]]:
    world = make_world(scene)
    levels = light_levels(world)
    film = Film(width, height, len(levels))
    add_samples(world, film, SAMPLES, pool=shared_pool())
    return film, levels


def _regions(film: Film) -> dict[str, NDArray[np.intp]]:
    """The pixels of each part, evenly thinned out where there are many."""
    covers, normal = film.part_covers, film.normal
    bevel = covers[..., PartOf.BEVEL] > FILLED
    masks = {
        "face": covers[..., PartOf.FACE] > FILLED,
        "upper bevel": bevel & (normal[..., 1] > LOOKS_UP),
        "lower bevel": bevel & (normal[..., 1] < -LOOKS_UP),
        "return": covers[..., PartOf.RETURN] > FILLED,
        "backdrop": (film.ground_cover > WHOLE) | (film.through.mean(axis=2) > WHOLE),
    }
    found = {name: np.flatnonzero(mask) for name, mask in masks.items()}
    return {
        name: pixels[:: -(-len(pixels) // MOST_PX)]
        for name, pixels in found.items()
        if len(pixels) >= FEWEST_PX
    }


@dataclass(frozen=True)
class ToneAdvice:
    """What there is to say about tones, and the tones that would help."""

    text: str
    label: str
    wanted: dict[str, float]


def tone_advice(measured: Measured) -> list[ToneAdvice]:
    """What a letterer would say of the tones at a glance: what runs together, bleaches or goes under. The
    limits are common practice."""
    tones, clipped = measured.lightness(), measured.clipped()
    face, backdrop = tones.get("face"), tones.get("backdrop")
    bevel = tones.get("upper bevel")
    said = []
    if face is not None and clipped["face"] > MOST_CLIPPED:
        text = f"{clipped['face']:.0%} of the face is bleached to white."
        said.append(ToneAdvice(text, "Hold the face", {"face": BRIGHT_FACE}))
    if face is not None and face < DARK_FACE and bevel is not None and bevel > face + CARRIES:
        text = f"The face is dark (L* {face:.0f}): the bevels carry the words alone."
        said.append(ToneAdvice(text, "Lighten the face", {"face": GOOD_FACE}))
    if face is not None and backdrop is not None and abs(face - backdrop) < APART:
        text = f"Face and backdrop are close in tone, {abs(face - backdrop):.0f} L* apart."
        lighter = face >= backdrop
        wanted = {"face": GOOD_FACE if lighter else 30.0, "backdrop": 28.0 if lighter else GOOD_FACE}
        said.append(ToneAdvice(text, "Part them", wanted))
    if face is not None and bevel is not None and abs(face - bevel) < BEVEL_APART:
        text = f"The upper bevels hardly differ from the face, by {abs(face - bevel):.0f} L*."
        said.append(ToneAdvice(text, "Lift the bevels", {"face": min(face, 70.0), "upper bevel": 90.0}))
    return said
