"""View: the exact turn of the lettering, and the camera."""

from typing import Literal

from pydantic import field_validator

from halvex.core.piece.fields import number, plain
from halvex.core.piece.part import LONGEST_LENGTH_PX, Part

WIDEST_APERTURE = 0.05


class Turn(Part):
    """Exact turns of the lettering about its own middle: first z, then y, then x (right-handed)."""

    x: float = number(0, label="Turn x", unit="°", comfort=(-90, 90), ge=-3600, le=3600)
    y: float = number(0, label="Turn y", unit="°", comfort=(-90, 90), ge=-3600, le=3600)
    z: float = number(0, label="Turn z", unit="°", comfort=(-180, 180), ge=-3600, le=3600)


class Oblique(Part):
    """An oblique projection (ISO 5456-3): the face in true shape, depth receding at an angle and a scale."""

    angle: float = number(45, label="Receding angle", unit="°", comfort=(0, 360), step=5, ge=-3600, le=3600)
    scale: float = number(0.5, label="Receding scale", unit="×", comfort=(0, 1), step=0.05, ge=0, le=10)


class View(Part):
    """Camera and turn.

    The focal length is of a 36 × 24 mm frame whose longer side spans the canvas; the face keeps its
    scale when it changes. `zoom` frames closer; `across` and `up` move the camera; `shift` slides the
    picture without changing the perspective (a shift lens). An aperture of f/0 keeps everything sharp;
    otherwise what lies off the plane of `focus` (px in front of the face plane) blurs.
    """

    turn: Turn = Turn()
    projection: Literal["central", "parallel", "oblique"] = plain("central", label="Rays")
    oblique: Oblique = Oblique()
    focal_length: float = number(
        50,
        label="Focal length",
        unit="mm",
        comfort=(18, 200),
        ge=4,
        le=5000,
        when={"projection": ("central",)},
    )
    zoom: float = number(1, label="Zoom", unit="×", comfort=(0.25, 4), step=0.05, ge=0.001, le=1000)
    across: float = number(
        0,
        label="Camera across",
        unit="px",
        comfort=(-600, 600),
        step=10,
        ge=-LONGEST_LENGTH_PX,
        le=LONGEST_LENGTH_PX,
        group="framing",
    )
    up: float = number(
        0,
        label="Camera up",
        unit="px",
        comfort=(-400, 400),
        step=10,
        ge=-LONGEST_LENGTH_PX,
        le=LONGEST_LENGTH_PX,
        group="framing",
    )
    shift_x: float = number(
        0,
        label="Shift across",
        unit="px",
        comfort=(-600, 600),
        step=10,
        ge=-LONGEST_LENGTH_PX,
        le=LONGEST_LENGTH_PX,
        group="framing",
    )
    shift_y: float = number(
        0,
        label="Shift up",
        unit="px",
        comfort=(-400, 400),
        step=10,
        ge=-LONGEST_LENGTH_PX,
        le=LONGEST_LENGTH_PX,
        group="framing",
    )
    aperture: float = number(
        0, label="Aperture", unit="f/", comfort=(0, 22), step=0.5, ge=0, le=1000, group="depth of field"
    )
    focus: float = number(
        0,
        label="Focus",
        unit="px",
        comfort=(-200, 200),
        step=5,
        ge=-LONGEST_LENGTH_PX,
        le=LONGEST_LENGTH_PX,
        group="depth of field",
    )

    @field_validator("aperture")
    @classmethod
    def _check_aperture(cls, value: float) -> float:
        if 0 < value < WIDEST_APERTURE:
            raise ValueError(f"no lens opens wider than f/{WIDEST_APERTURE:g}; 0 keeps everything sharp")
        return value
