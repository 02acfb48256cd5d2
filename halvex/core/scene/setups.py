"""Lighting setups: arrangements that photographers and sign-makers know by name, each a rule that fits
itself to the lettering (subject.py) instead of a fixed list of lamps.

What the trade paints by hand on a polished face, a gradient from light to dark, is in truth a graded card
that stands where the face mirrors: here it is put there, whichever way the piece is turned. Bevels and
returns mirror other directions, and each gets a card or is left to the dark.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from halvex.core.piece.light import (
    AnySurround,
    Card,
    FittedSetup,
    Horizon,
    Lamp,
    Light,
    Plain,
    SetupName,
    Studio,
)
from halvex.core.piece.resolving import ResolvedPiece
from halvex.core.scene.lamps import angles_of, lamp_direction
from halvex.core.scene.skies import CARD_LIGHT
from halvex.core.scene.subject import Subject, Substance, Vector, subject_of

# Where on a card's soft edge, counted in its softness, the light and the dark end of a graded face lie:
# there a smoothstep has fallen to 0.98 and 0.01.
LIGHT_END, DARK_END = 0.08, 0.94
# A gradient is no steeper than this: facets of brushed or satin metal would blur it away.
LEAST_SOFTNESS_DEG = 7.0
# Lamps stand so many widths of the lettering away.
STAND = 1.25
# Luminance between which a face that scatters light is brought, by so many stops at most.
DARKEST_FACE, LIGHTEST_FACE, MOST_GAIN = 0.34, 0.36, 1.0
# Between what the face mirrors and a lamp that may be seen in reflections.
CLEARANCE_DEG = 10.0
LEAST_STAND_PX, MOST_STAND_PX = 300.0, 20_000.0


@dataclass(frozen=True)
class Lit:
    """What a setup makes: lamps and surroundings."""

    lamps: tuple[Lamp, ...]
    surround: AnySurround


@dataclass(frozen=True)
class Setup:
    """A lighting setup by name: what it is for, in words, the substances it suits, and its rule."""

    name: SetupName
    says: str
    suits: tuple[Substance, ...]
    rule: Callable[[Subject], Lit]


def light_of(setup: SetupName, piece: ResolvedPiece) -> Lit:
    """The light of a setup for a piece. Raises LetteringError where a block cannot be set."""
    subject = subject_of(piece)
    return SETUPS[setup].rule(subject)


def fitting_setup(piece: ResolvedPiece) -> SetupName:
    """The setup that suits what the piece's lettering is made of. Raises LetteringError."""
    substance = subject_of(piece).substance
    return next(name for name, setup in SETUPS.items() if substance in setup.suits)


def _stops(light: float) -> float:
    """Stops of a card of this radiance."""
    return round(math.log2(max(light, 1e-4) / CARD_LIGHT), 2)


def _half_degrees(angle: float) -> float:
    """Rounded, so that an edit which hardly moves the letters keeps the surroundings, which take time to
    make."""
    return round(2 * angle) / 2


def card(
    towards: Vector,
    *,
    light: float,
    width: float,
    height: float,
    softness: float = 12.0,
    up: Vector | None = None,
    kelvin: float = 5500,
) -> Card:
    """A card in a direction (3,), upright, or with its own up (3,); its radiance, its sizes in degrees."""
    bearing, elevation = angles_of(np.asarray(towards, float))
    roll = 0.0
    if up is not None:
        level = np.cross([0.0, 1.0, 0.0], towards)
        level = level / np.linalg.norm(level) if np.linalg.norm(level) > 1e-6 else np.array([1.0, 0.0, 0.0])
        upright = np.cross(towards, level)
        roll = math.degrees(math.atan2(-float(up @ level), float(up @ upright)))
    return Card(
        bearing=_half_degrees(bearing),
        elevation=_half_degrees(elevation),
        width=_half_degrees(min(width, 360.0)),
        height=_half_degrees(min(height, 180.0)),
        softness=_half_degrees(min(softness, 180.0)),
        roll=_half_degrees(roll),
        kelvin=kelvin,
        strength=_stops(light),
    )


def _turned_towards(direction: Vector, along: Vector, degrees: float) -> Vector:
    """A unit vector turned by degrees towards another that is square to it."""
    angle = math.radians(degrees)
    return np.asarray(direction * math.cos(angle) + along * math.sin(angle))


def graded_card(
    subject: Subject,
    light: float,
    *,
    height: float = 55.0,
    softness: float | None = None,
    kelvin: float = 5500,
) -> Card:
    """A card above what the face mirrors, whose soft lower edge lies across it: the face is light at its top
    and darkens downwards."""
    soft = (
        max(subject.rise_deg / (DARK_END - LIGHT_END), LEAST_SOFTNESS_DEG) if softness is None else softness
    )
    middle = height / 2 + soft * (LIGHT_END + DARK_END) / 2
    towards = _turned_towards(subject.face, subject.up_axis, middle)
    up = _turned_towards(subject.up_axis, -subject.face, middle)
    return card(
        towards,
        light=light,
        width=subject.span_deg + 50,
        height=height,
        softness=soft,
        up=up,
        kelvin=kelvin,
    )


def facing_card(subject: Subject, light: float, *, margin: float = 25.0, softness: float = 20.0) -> Card:
    """A card that covers all that the face mirrors."""
    return card(
        subject.face,
        light=light,
        width=subject.span_deg + 2 * margin,
        height=subject.rise_deg + 2 * margin,
        softness=softness,
        up=subject.up_axis,
    )


def bevel_cards(
    subject: Subject, up: float, left: float, right: float, down: float, kelvin: float = 5500
) -> tuple[Card, ...]:
    """Cards where the bevels of each side mirror, of these radiances; none for 0."""
    lights = {"up": up, "left": left, "right": right, "down": down}
    return tuple(
        card(subject.bevels[side], light=light, width=42, height=42, softness=14, kelvin=kelvin)
        for side, light in lights.items()
        if light > 0
    )


def gain_of(subject: Subject) -> float:
    """Stops by which lamps are raised for a dark face, or lowered for a light one, so that it comes out in
    the middle of what a display shows."""
    albedo = max(subject.albedo, 1e-3)
    wanted = min(max(albedo, DARKEST_FACE), LIGHTEST_FACE)
    return round(min(max(math.log2(wanted / albedo), -MOST_GAIN), MOST_GAIN), 2)


def lamp(
    subject: Subject,
    name: str,
    bearing: float,
    elevation: float,
    strength: float,
    *,
    size: float = 0.45,
    shape: float = 1.0,
    kelvin: float = 5500,
    kind: str = "softbox",
    mirrored: bool = True,
    stand: float = STAND,
) -> Lamp:
    """A lamp of a setup; `size` is its height in widths of the lettering, `shape` its width to that. One that
    would bleach a part of the face, because the face mirrors it, is kept out of reflections: what shows there
    is the cards' to say."""
    reach = max(subject.width, subject.height)
    distance = min(max(reach * stand, LEAST_STAND_PX), MOST_STAND_PX)
    height = max(size * reach, 1.0)
    apart = math.degrees(
        math.acos(min(max(float(lamp_direction(bearing, elevation) @ subject.face), -1.0), 1.0))
    )
    half = math.degrees(math.atan(height * max(shape, 1.0) / 2 / distance))
    shown = mirrored and apart > subject.span_deg / 2 + half + CLEARANCE_DEG
    return Lamp.model_validate(
        {
            "id": name.replace(" ", "-"),
            "name": name,
            "kind": kind,
            "bearing": bearing,
            "elevation": elevation,
            "distance": round(distance),
            "width": round(max(height * shape, 1.0), 1),
            "height": round(height, 1),
            "strength": strength,
            "kelvin": kelvin,
            "in_reflections": shown,
        }
    )


def _graded_face(subject: Subject) -> Lit:
    # Yellow and red metals are shown in a warm room, white ones in a neutral one.
    kelvin = 4200 if subject.warm else 5800
    cards = (
        graded_card(subject, 1.5 if subject.warm else 1.15, kelvin=kelvin),
        *bevel_cards(subject, up=3.2, left=1.6, right=0, down=0, kelvin=kelvin),
        *bevel_cards(subject, up=0, left=0, right=0.55, down=0.12, kelvin=0.8 * kelvin),
    )
    return Lit(
        (
            lamp(subject, "key", 122, 44, 0.55, size=0.32, kelvin=5000, stand=0.72),
            lamp(subject, "fill", 335, 40, -2.6, size=0.7, kelvin=6500, mirrored=False),
        ),
        Studio(strength=0, gradient=4.5, cards=cards),
    )


def _window(subject: Subject) -> Lit:
    panes = []
    for across, up in ((-9, 9), (9, 9), (-9, -9), (9, -9)):
        towards = _turned_towards(subject.bevels["left"], np.array([0.0, 1.0, 0.0]), up)
        side = np.cross([0.0, 1.0, 0.0], towards)
        panes.append(
            card(
                _turned_towards(towards, side / np.linalg.norm(side), across),
                light=3.2,
                width=15,
                height=15,
                softness=1.5,
            )
        )
    return Lit(
        (
            lamp(subject, "window", 165, 35, 0.3, size=0.8, kelvin=6000),
            lamp(subject, "room", 20, 55, -2.4, size=0.9, kelvin=4200, mirrored=False),
        ),
        Studio(
            strength=0,
            gradient=3.5,
            cards=(
                graded_card(subject, 0.95),
                *panes,
                *bevel_cards(subject, up=0.9, left=0, right=0.25, down=0.1),
            ),
        ),
    )


def _hard_break(subject: Subject) -> Lit:
    height = math.degrees(math.asin(max(min(float(subject.face[1]), 1.0), -1.0)))
    return Lit(
        (
            lamp(subject, "key", 118, 46, -0.1, size=0.4),
            lamp(subject, "fill", 330, 40, -2.5, size=0.6, mirrored=False),
        ),
        Horizon(strength=-0.1, height=round(min(max(height, -85), 85), 1), softness=1.2, contrast=4.5),
    )


def _low_sun(subject: Subject) -> Lit:
    cards = (
        graded_card(subject, 0.8),
        card(subject.bevels["left"], light=2.6, width=50, height=30, softness=16),
        *bevel_cards(subject, up=0.7, left=0, right=0.2, down=0.12),
    )
    return Lit(
        (
            lamp(subject, "sun", 158, 24, 0.5, size=0.2, kelvin=3300),
            lamp(subject, "sky", 60, 60, -1.8, size=1.0, kelvin=9000, mirrored=False),
        ),
        Studio(strength=0, gradient=3.5, cards=cards),
    )


def _strip_pair(subject: Subject) -> Lit:
    cards = (
        graded_card(subject, 0.28),
        card(subject.bevels["left"], light=2.8, width=22, height=110, softness=6),
        card(subject.bevels["right"], light=2.0, width=22, height=110, softness=6),
        card(subject.bevels["up"], light=0.7, width=60, height=24, softness=10),
    )
    return Lit(
        (
            lamp(subject, "left strip", 178, 22, -0.2, size=1.1, shape=0.15, kind="strip"),
            lamp(subject, "right strip", 2, 22, -0.7, size=1.1, shape=0.15, kind="strip"),
        ),
        Studio(strength=0, gradient=5, cards=cards),
    )


def _overcast(subject: Subject) -> Lit:
    return Lit(
        (lamp(subject, "sky", 90, 55, -0.6, size=1.6, kelvin=6500, mirrored=False),),
        Studio(
            strength=0,
            gradient=1.2,
            cards=(
                graded_card(subject, 0.75, height=90, softness=40),
                *bevel_cards(subject, 1.1, 0.75, 0.7, 0.35),
            ),
        ),
    )


def _softbox_and_fill(subject: Subject) -> Lit:
    gain = gain_of(subject)
    cards = (facing_card(subject, 0.12), *bevel_cards(subject, up=1.8, left=1.1, right=0.4, down=0.12))
    return Lit(
        (
            lamp(subject, "key", 125, 44, 0.5 + gain, size=0.4),
            lamp(subject, "fill", 330, 45, -2.2 + gain, size=0.9, mirrored=False),
            lamp(subject, "rim light", 40, 12, -0.6, size=0.6, shape=0.3, kind="strip"),
        ),
        Studio(strength=-0.6, gradient=3, cards=cards),
    )


def _top_light(subject: Subject) -> Lit:
    cards = (graded_card(subject, 0.5), *bevel_cards(subject, up=2.2, left=0.4, right=0.4, down=0.25))
    return Lit(
        (
            lamp(subject, "top light", 90, 42, 0.4, size=0.35, shape=2.4),
            lamp(subject, "bounce", 270, 40, -1.9, size=0.8, kelvin=4600, mirrored=False),
        ),
        Studio(strength=-0.4, gradient=4, cards=cards),
    )


def _raking(subject: Subject) -> Lit:
    gain = gain_of(subject)
    return Lit(
        (
            lamp(subject, "raking light", 138, 22, 1.4 + gain, size=0.16, kelvin=4800),
            lamp(subject, "fill", 318, 55, -1.7 + gain, size=1.0, kelvin=7000, mirrored=False),
        ),
        Studio(strength=-1.2, gradient=2.5, cards=(graded_card(subject, 0.4),)),
    )


def _dark_field(subject: Subject) -> Lit:
    cards = (
        card(subject.bevels["left"], light=4.5, width=30, height=100, softness=8),
        card(subject.bevels["right"], light=3.5, width=30, height=100, softness=8),
        card(subject.bevels["up"], light=3.0, width=100, height=28, softness=8),
        graded_card(subject, 0.35),
    )
    return Lit(
        (
            lamp(subject, "left strip", 170, 30, 0.1, size=1.0, shape=0.2, kind="strip"),
            lamp(subject, "right strip", 10, 30, -0.4, size=1.0, shape=0.2, kind="strip"),
        ),
        Studio(strength=0, gradient=4, cards=cards),
    )


def _bright_field(subject: Subject) -> Lit:
    cards = (
        card(subject.bevels["left"], light=0.03, width=10, height=60, softness=6),
        graded_card(subject, 0.9, softness=30),
        card(subject.bevels["up"], light=1.6, width=120, height=30, softness=15),
    )
    return Lit(
        (
            lamp(subject, "behind left", 150, 62, 2.0, size=1.1, mirrored=False),
            lamp(subject, "behind right", 30, 62, 2.0, size=1.1, mirrored=False),
        ),
        Studio(strength=0, gradient=2, cards=cards),
    )


def _dark_room(subject: Subject) -> Lit:
    return Lit(
        (lamp(subject, "moonlight", 105, 50, -3.4, size=0.9, kelvin=9500, mirrored=False),),
        Studio(strength=-3.2, gradient=3, cards=(graded_card(subject, 0.5),)),
    )


def _copy_stand(subject: Subject) -> Lit:
    return Lit(
        (
            lamp(subject, "left lamp", 180, 45, -0.4, size=0.6, mirrored=False),
            lamp(subject, "right lamp", 0, 45, -0.4, size=0.6, mirrored=False),
        ),
        Plain(strength=-1.5),
    )


_ALL = (
    Setup(
        "graded face",
        "A soft card over the face: light at the top, darker below; bevels shine on the key's side.",
        ("metal",),
        _graded_face,
    ),
    Setup(
        "softbox and fill",
        "The portrait photographer's three lamps: key, fill and rim light.",
        ("gloss",),
        _softbox_and_fill,
    ),
    Setup(
        "raking light",
        "One hard lamp low over the surface, so that every grain throws a shadow.",
        ("matte",),
        _raking,
    ),
    Setup("dark field", "Strips beside glass, darkness behind it: its edges shine.", ("glass",), _dark_field),
    Setup("dark room", "Next to no light but the tubes' own.", ("glow",), _dark_room),
    Setup(
        "copy stand",
        "Two even lamps, as for photographing a drawing: no shading that is not asked for.",
        ("flat",),
        _copy_stand,
    ),
    Setup("window", "A window with four panes to the left, mirrored in bevels and rounds.", (), _window),
    Setup(
        "hard break", "Sky over land with a sharp line between them, right across the face.", (), _hard_break
    ),
    Setup("low sun", "A warm sun from the left, low, under a cool sky: long shadows.", (), _low_sun),
    Setup("strip pair", "Two tall strips at the sides: dark faces, bright edges.", (), _strip_pair),
    Setup("overcast", "A wide even sky: soft, with hardly a shadow.", (), _overcast),
    Setup(
        "top light", "A long box overhead and a bounce from below, as over a shop counter.", (), _top_light
    ),
    Setup("bright field", "A bright ground behind glass: its edges are drawn dark.", (), _bright_field),
)
SETUPS: dict[SetupName, Setup] = {setup.name: setup for setup in _ALL}


def lit_by(light: Light, setup: FittedSetup, piece: ResolvedPiece) -> Light:
    """A light with the lamps and surroundings of a setup fitted to a piece; exposure and tone curve stay, and
    lamps of the same setup that are off. Raises LetteringError where a block cannot be set."""
    lit = light_of(setup.name, piece)
    again = light.setup is not None and light.setup.name == setup.name
    off = {lamp.id for lamp in light.lamps if again and not lamp.on}
    lamps = tuple(lamp.model_copy(update={"on": lamp.id not in off}) for lamp in lit.lamps)
    return light.model_copy(update={"setup": setup, "lamps": lamps, "surround": lit.surround})
