"""Fitness: whether a block's stems are wide enough for its form, and what numbers would do."""

from dataclasses import dataclass

from halvex.core.advice.stems import Stem
from halvex.core.piece.form import Form

# A tube may swell a little over the stroke it follows before it looks wrong: common practice.
TUBE_OVER_STROKE = 1.5


@dataclass(frozen=True)
class Misfit:
    """What does not fit, in words; the number of the form that would mend it, by its pointer in the
    form; the stem that the form as it is would want, in px."""

    text: str
    label: str
    at: str
    value: float
    wanted: float


def misfits(form: Form, thin: Stem, *, drawn: bool = False) -> list[Misfit]:
    """What the thinnest stem of a block is too thin for; `drawn` strokes are as wide as their tube is."""
    name = f", letter {thin.letter}" if thin.letter else ""
    limit = thin.width / 2
    found = []
    bevel = form.bevel
    beveled = (bevel.front or bevel.back) and bevel.width > 0 and bevel.height > 0
    if (
        form.kind == "solid"
        and beveled
        and bevel.side == "inset"
        and not (bevel.to_ridge or bevel.cushion)
        and bevel.width > limit
    ):
        rounded = round(limit - 0.05, 1)
        text = f"Thinnest stem {thin.width:.1f} px{name}. A bevel over {limit:.1f} px becomes a ridge there."
        found.append(Misfit(text, f"Set {rounded:g}", "bevel/width", rounded, 2 * bevel.width))
    inward = {"inside": form.rim.width, "centred": form.rim.width / 2, "outside": 0.0}[form.rim.side]
    if form.kind == "rim" and inward > limit:
        fitting = round((limit - 0.05) * (2 if form.rim.side == "centred" else 1), 1)
        found.append(
            Misfit(
                f"Thinnest stem {thin.width:.1f} px{name}: this rim fills it.",
                f"Set {fitting:g}",
                "rim/width",
                fitting,
                2 * inward,
            )
        )
    if form.kind == "tube" and not drawn and form.tube.radius > limit * TUBE_OVER_STROKE:
        text = f"Thinnest stem {thin.width:.1f} px{name}: this tube is wider than the stroke it follows."
        found.append(
            Misfit(
                text,
                f"Set {limit:.1f}",
                "tube/radius",
                round(limit, 1),
                2 * form.tube.radius / TUBE_OVER_STROKE,
            )
        )
    return found
