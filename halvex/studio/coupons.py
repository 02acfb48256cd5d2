"""Coupons: small test plates of a material, drawn under a piece's own lamps; and surroundings, unrolled."""

from dataclasses import dataclass

import numpy as np

from halvex.core.finish.orders import DraftOrder
from halvex.core.finish.picture import Picture
from halvex.core.finish.render_piece import render_piece
from halvex.core.finish.tone import to_display
from halvex.core.memory import kept
from halvex.core.piece.backdrop import Backdrop
from halvex.core.piece.block import Place, Shape, Stroke, StrokePoint, Strokes
from halvex.core.piece.form import Bevel, Form, Tube
from halvex.core.piece.light import AnySurround, Light
from halvex.core.piece.material import (
    AnyMaterial,
    Flat,
    Glass,
    Glow,
    InnerLayer,
    Metal,
    Paint,
    Plaster,
    Plastic,
    Stone,
    Surface,
    Wood,
)
from halvex.core.piece.model import AnyBlock, Canvas, Piece
from halvex.core.piece.view import Turn, View
from halvex.core.scene.skies import panorama_of, picture_of
from halvex.studio.assets import assets

WIDTH, HEIGHT = 134, 92
UNROLLED_HEIGHT = 64


@dataclass(frozen=True)
class Coupon:
    name: str
    family: str
    material: AnyMaterial


_ALL = (
    Coupon("gold", "metal", Metal(metal="gold", roughness=0.22)),
    Coupon("polished gold", "metal", Metal(metal="gold", roughness=0.06)),
    Coupon("silver", "metal", Metal(metal="silver", roughness=0.16)),
    Coupon("copper", "metal", Metal(metal="copper", roughness=0.25)),
    Coupon("brass", "metal", Metal(metal="brass", roughness=0.2)),
    Coupon("bronze", "metal", Metal(metal="bronze", roughness=0.3)),
    Coupon("chromium", "metal", Metal(metal="chromium", roughness=0.04)),
    Coupon("brushed steel", "metal", Metal(metal="steel", roughness=0.35, brushed=80)),
    Coupon("nickel", "metal", Metal(metal="nickel", roughness=0.15)),
    Coupon("aluminium", "metal", Metal(metal="aluminium", roughness=0.4, brushed=50)),
    Coupon("titanium", "metal", Metal(metal="titanium", roughness=0.3)),
    Coupon("tungsten", "metal", Metal(metal="tungsten", roughness=0.25)),
    Coupon("iron", "metal", Metal(metal="iron", roughness=0.5)),
    Coupon("blued steel", "metal", Metal(metal="steel", roughness=0.18, tint="#6f86b8")),
    Coupon("red plastic", "plastic", Plastic(colour="#c8402f")),
    Coupon("white plastic", "plastic", Plastic(colour="#eeeae0", roughness=0.1)),
    Coupon("black plastic", "plastic", Plastic(colour="#1d1c1b", roughness=0.08)),
    Coupon("dull plastic", "plastic", Plastic(colour="#3f6a4a", roughness=0.5)),
    Coupon("pearl", "plastic", Plastic(colour="#b8c4d2", pearl=55)),
    Coupon("champagne pearl", "plastic", Plastic(colour="#8a5a3a", pearl=70, pearl_colour="#ffd9a0")),
    Coupon("clear glass", "glass", Glass()),
    Coupon("bottle glass", "glass", Glass(index=1.52, tint="#5a9a62", tint_depth=60)),
    Coupon("frosted glass", "glass", Glass(roughness=0.35)),
    Coupon("acrylic", "glass", Glass(index=1.49, tint="#e8705a", tint_depth=50)),
    Coupon("lead crystal", "glass", Glass(index=1.7, tint="#ffffff", abbe=30)),
    Coupon("thin pane", "glass", Glass(thin=True, tint="#cfe4ee")),
    Coupon("backed glass", "glass", Glass(layer=InnerLayer())),
    Coupon("striped glass", "glass", Glass(layer=InnerLayer(pattern="stripes", size=14, bearing=45))),
    Coupon("granite", "stone", Stone()),
    Coupon(
        "marble",
        "stone",
        Stone(stone="marble", colour="#e6e2da", second="#6f6a66", grain=60, relief=0.02, roughness=0.18),
    ),
    Coupon(
        "slate",
        "stone",
        Stone(stone="slate", colour="#4c535a", second="#2f343a", grain=22, relief=0.6, roughness=0.6),
    ),
    Coupon(
        "sandstone",
        "stone",
        Stone(stone="sandstone", colour="#c79a66", second="#9a6b3e", grain=18, relief=0.5, roughness=0.9),
    ),
    Coupon("oak", "wood", Wood()),
    Coupon("walnut", "wood", Wood(colour="#6a4529", second="#3a2414", grain=14, roughness=0.4)),
    Coupon("pine", "wood", Wood(colour="#dcb67c", second="#b07c3f", grain=26)),
    Coupon("driftwood", "wood", Wood(colour="#a09a8e", second="#6b665d", relief=0.8, roughness=0.9)),
    Coupon("matt paint", "paint", Paint()),
    Coupon("satin paint", "paint", Paint(colour="#7a2f3a", finish="satin")),
    Coupon("gloss paint", "paint", Paint(colour="#20466e", finish="gloss")),
    Coupon("plaster", "plaster", Plaster()),
    Coupon("paper", "plaster", Plaster(colour="#f2eee4", texture="paper", grain=8, relief=0.3)),
    Coupon("red neon", "glow", Glow(colour="#ff3a1c", strength=1, core=80)),
    Coupon("white neon", "glow", Glow(colour="#ffe9c8", strength=1.5)),
    Coupon("blue neon", "glow", Glow(colour="#2f7dff", strength=1, core=80)),
    Coupon("flat yellow", "flat", Flat()),
    Coupon("flat ink", "flat", Flat(colour="#20262e")),
)
COUPONS: dict[str, Coupon] = {coupon.name: coupon for coupon in _ALL}


# What glass stands before, to be seen by what it bends.
_BARS = ("#c8a24a", "#a8402c", "#e6ddcc", "#2f6f86")
_BAR_PX, _BARS_BEHIND_PX = 14.0, 26.0


@kept
def coupon(light: Light, material: AnyMaterial) -> Picture:
    """A plate of the material under these lamps, glass before bars of colour; of what glows a bent tube
    before a dark wall. Raises SceneError where its panorama is missing."""
    piece = Piece(
        canvas=Canvas(width=WIDTH, height=HEIGHT),
        blocks=_blocks(material),
        view=View(turn=Turn(x=-10, y=14)),
        light=light,
        backdrop=Backdrop(
            ground="wall",
            colour="#1c1e22" if isinstance(material, Glow) else "#8d8a84",
            gap=_BARS_BEHIND_PX if isinstance(material, Glass) else 0,
        ),
    )
    return render_piece(piece, DraftOrder(), assets=assets())


def _blocks(material: AnyMaterial) -> tuple[AnyBlock, ...]:
    surface = Surface(face=material)
    if isinstance(material, Glow):
        wave = Stroke(
            points=(
                StrokePoint(x=-44, y=-14, out_x=14, out_y=44),
                StrokePoint(x=0, y=0, in_x=-14, in_y=22, out_x=14, out_y=-22),
                StrokePoint(x=44, y=14, in_x=-14, in_y=-44),
            )
        )
        return (
            Strokes(
                strokes=(wave,),
                place=Place(x=0, y=1, z=14),
                form=Form(kind="tube", tube=Tube(radius=8)),
                surface=surface,
            ),
        )
    plate = Shape(
        shape="rectangle",
        width=104,
        height=64,
        corner_radius=9,
        place=Place(x=0, y=1),
        form=Form(depth=22, bevel=Bevel(profile="ovolo", cushion=True, height=12)),
        surface=surface,
    )
    if not isinstance(material, Glass):
        return (plate,)
    bars = tuple(
        Shape(
            id=f"bar-{number}",
            shape="rectangle",
            width=_BAR_PX,
            height=2 * HEIGHT,
            place=Place(x=2 * _BAR_PX * (number - (len(_BARS) - 1) / 2), z=-_BARS_BEHIND_PX),
            form=Form(depth=6, bevel=Bevel(profile="ovolo", width=3, height=3)),
            surface=Surface(face=Paint(colour=colour, finish="gloss")),
        )
        for number, colour in enumerate(_BARS)
    )
    return (plate, *bars)


def first_of(family: str) -> AnyMaterial:
    """The material that stands for its family until another is chosen."""
    return next(entry.material for entry in _ALL if entry.family == family)


def surround_picture(surround: AnySurround) -> Picture:
    """All directions of a surround, unrolled, as bright as its strength makes it. Raises SceneError
    where its panorama is missing."""
    picture = picture_of(surround, panorama_of(surround, assets())) * 2.0**surround.strength
    step = max(picture.shape[0] // UNROLLED_HEIGHT, 1)
    height, width = picture.shape[0] // step, picture.shape[1] // step
    small = (
        picture[: height * step, : width * step]
        .reshape(height, step, width, step, 3)
        .mean(axis=(1, 3))
        .astype(np.float32)
    )
    turned = np.ascontiguousarray(np.roll(small, round(surround.turn / 360 * width), axis=1))
    return Picture(to_display(turned, 0.0), turned, None)
