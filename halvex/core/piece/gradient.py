"""Gradients: colours that change from stop to stop."""

from itertools import pairwise
from typing import Any, Literal

from pydantic import field_validator

from halvex.core.piece.fields import When, number, plain
from halvex.core.piece.layer import PLANES, Blend, Span, angle, masks, percentage, shift, stretch
from halvex.core.piece.part import Colour, Part

MOST_STOPS = 32


def _in_plane(**more: tuple[Any, ...]) -> When:
    return {"span": PLANES, **more}


class Stop(Part):
    """A colour at a place of a gradient. Hardness draws the change to the next stop together: at 100 it is a
    hard break half-way."""

    at: float = number(0, label="Place", unit="%", comfort=(0, 100), step=1, ge=-1000, le=1000)
    colour: Colour = plain("#ffffff", label="Colour")
    opacity: float = percentage(100, "Opacity")
    hardness: float = percentage(0, "Hardness")


class Gradient(Part):
    """Colours that change along a line, out from a point, around one, or along the body itself: over its
    depth, along its outline or tube, or across its bevel or around its tube; or from what faces a direction,
    on a compass fixed to the block or that of the key lamp, to what faces away: graphic tones.

    The key lamp is the first that is on."""

    kind: Literal["gradient"] = "gradient"
    span: Span = plain("block", label="Over")
    shape: Literal["linear", "round", "oval", "polygon", "conic"] = plain(
        "linear", label="Shape", when=_in_plane()
    )
    mix: Literal["oklab", "srgb", "linear"] = plain("oklab", label="Mixed in")
    blend: Blend = plain("normal", label="Blend mode")
    bearing: float = angle(270, "Bearing", when=_in_plane(shape=("linear",)))
    towards: Literal["compass", "key lamp"] = plain("compass", label="Towards", when={"span": ("facing",)})
    compass: float = angle(120, "Compass", when={"span": ("facing",), "towards": ("compass",)})
    elevation: float = number(
        35,
        label="Elevation",
        unit="°",
        comfort=(-90, 90),
        step=5,
        ge=-90,
        le=90,
        when={"span": ("facing",), "towards": ("compass",)},
    )
    turn: float = angle(0, "Turn", when=_in_plane(shape=("oval", "polygon", "conic")))
    sides: int = number(6, label="Sides", comfort=(3, 12), ge=3, le=100, when=_in_plane(shape=("polygon",)))
    scale: float = stretch("Length", when={"shape": ("linear", "round", "oval", "polygon")})
    x: float = shift("Moved across", _in_plane())
    y: float = shift("Moved up", _in_plane())
    strength: float = percentage(100, "Strength")
    masks: bool = masks()
    reversed: bool = plain(False, label="reversed")
    mirrored: bool = plain(False, label="mirrored")
    repeated: bool = plain(False, label="repeated")
    stops: tuple[Stop, ...] = (Stop(at=0, colour="#f6d98a"), Stop(at=100, colour="#8a4b1d"))

    @field_validator("stops")
    @classmethod
    def _check_stops(cls, stops: tuple[Stop, ...]) -> tuple[Stop, ...]:
        if not stops:
            raise ValueError("a gradient needs a stop at least; add one, or take the gradient away")
        if len(stops) > MOST_STOPS:
            raise ValueError(f"a gradient has {MOST_STOPS} stops at most; take some away")
        for before, after in pairwise(stops):
            if after.at < before.at:
                raise ValueError(
                    f"stops go from the first place to the last; the one at {after.at:g} % comes after "
                    f"{before.at:g} %: put them in order"
                )
        return stops
