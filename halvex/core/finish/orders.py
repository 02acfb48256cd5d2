"""Orders: what picture is wanted. A draft, a proof and a final picture are three kinds of order."""

from dataclasses import dataclass, fields
from typing import Any, ClassVar

from halvex.core.piece.model import LARGEST_CANVAS_PX, LONGEST_CANVAS_SIDE_PX, Piece
from halvex.core.render.noise import AIM, MOST_SAMPLES

# Seeds of neighbouring frames share nothing; the stride keeps them apart from seeds that people type.
FRAME_STRIDE = 1_000_003
MOST_ORDERED_SAMPLES = 1_000_000


class RenderError(ValueError):
    """A picture that cannot be made as asked; `field` names the setting at fault."""

    def __init__(self, field: str, remedy: str):
        super().__init__(remedy)
        self.field = field
        self.remedy = remedy


@dataclass(frozen=True, kw_only=True)
class Order:
    """The size in px (None: the canvas'); bodies are as fine as for `detail` px per px of canvas (None: as
    the picture has)."""

    width: int | None = None
    height: int | None = None
    detail: float | None = None


@dataclass(frozen=True, kw_only=True)
class DraftOrder(Order):
    """A picture at once, without noise and without a choice."""


@dataclass(frozen=True, kw_only=True)
class SampledOrder(Order):
    """A picture by the path integrator.

    Sampling stops where the denoised picture is near enough to the converged one, by the kind of order
    (clean.py). `samples` asks for so many per pixel on average instead, more where the picture is noisy;
    `noise` for so much noise before denoising, as a share of full scale. Pictures of a loop differ by
    `frame`: their noise moves from frame to frame, or with `still_noise` stays where it is. `transparent`:
    alpha in place of the backdrop; `layers`: with layers for finishing."""

    samples: int | None = None
    noise: float | None = None
    seed: int = 0
    frame: int = 0
    still_noise: bool = False
    transparent: bool = False
    layers: bool = False

    # The FLIP to the converged picture that is aimed at, and the most samples to get there.
    aim: ClassVar[float]
    most: ClassVar[int]

    @property
    def frame_seed(self) -> int:
        """The seed of this frame: another for each, unless noise is to stand still."""
        return self.seed if self.still_noise else (self.seed + self.frame * FRAME_STRIDE) % 2**31


class ProofOrder(SampledOrder):
    """A picture to judge by, soon."""

    aim, most = AIM["proof"], MOST_SAMPLES["proof"]


class FinalOrder(SampledOrder):
    """A picture to deliver."""

    aim, most = AIM["final"], MOST_SAMPLES["final"]


KINDS: dict[str, type[Order]] = {"draft": DraftOrder, "proof": ProofOrder, "final": FinalOrder}
_NO_DRAFT_HAS = {
    "samples": "a draft takes no samples",
    "noise": "a draft has no noise to aim at",
    "seed": "a draft is the same for every seed",
    "frame": "a draft is the same in every frame",
    "still_noise": "a draft has no noise",
    "transparent": "a draft has no transparency",
    "layers": "a draft has no layers",
}


def order_of(quality: str, **options: Any) -> Order:
    """The order of a quality (draft, proof or final) with options by name. Raises RenderError for what that
    kind of order does not take, and for numbers out of range."""
    kind = KINDS[quality]
    taken = {field.name: field.default for field in fields(kind)}
    defaults = {field.name: field.default for field in fields(SampledOrder)}
    for name, value in options.items():
        if name not in taken and value != defaults[name]:
            raise RenderError(name, f"{_NO_DRAFT_HAS[name]}; leave it out, or take proof or final")
    order = kind(**{name: value for name, value in options.items() if name in taken})
    check(order)
    return order


def check(order: Order) -> None:
    """Raises RenderError for numbers out of range."""
    if not isinstance(order, SampledOrder):
        return
    if order.samples is not None and not 1 <= order.samples <= MOST_ORDERED_SAMPLES:
        raise RenderError(
            "samples", f"{order.samples} samples cannot be taken; take 1 to {MOST_ORDERED_SAMPLES}"
        )
    if order.noise is not None and not 1e-4 <= order.noise <= 1:
        raise RenderError("noise", f"a noise of {order.noise:g} cannot be aimed at; take 0.0001 to 1")


def picture_size(piece: Piece, order: Order) -> tuple[int, int, float]:
    """(width, height, picture px per canvas px). One side given sets the other by the canvas' shape.

    Where both are given and the shape differs, the canvas is fitted inside. Raises RenderError.
    """
    canvas = piece.canvas
    width, height = order.width, order.height
    if width is None and height is None:
        width, height = canvas.width, canvas.height
    elif width is None and height is not None:
        width = max(round(height * canvas.width / canvas.height), 1)
    elif height is None and width is not None:
        height = max(round(width * canvas.height / canvas.width), 1)
    assert width is not None and height is not None
    for name, side in (("width", width), ("height", height)):
        if not 1 <= side <= LONGEST_CANVAS_SIDE_PX:
            raise RenderError(
                name, f"a side of {side} px cannot be made; take 1 to {LONGEST_CANVAS_SIDE_PX} px"
            )
    if width * height > LARGEST_CANVAS_PX:
        megapixels = LARGEST_CANVAS_PX // 10**6
        raise RenderError(
            "width", f"{width} × {height} is over {megapixels} megapixels; make one side smaller"
        )
    return width, height, min(width / canvas.width, height / canvas.height)
