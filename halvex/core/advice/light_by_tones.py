"""Light by tones: how strong lamps and cards must be for each part to be as light as the artist says.

The picture is linear in its sources, so one small render of each tells what all strengths would make.
Nonnegative least squares on luminance gives a first answer; Gauss-Newton steps on the L* of the finished
picture, tone curve and all, refine it. Where strengths cannot do it, setups with other cards are tried.
What is still not reached is reported, with the reason.
"""

from dataclasses import dataclass, replace

import numpy as np
from scipy.optimize import least_squares, nnls

from halvex.core.advice.tones import FEWEST_PX, LUMINANCE, REGIONS, Array, Measured, luminance_of, measure
from halvex.core.piece.light import FittedSetup, Light, SetupName, Studio
from halvex.core.piece.resolving import ResolvedPiece
from halvex.core.scene.setups import lit_by

# A tone this close to the wanted one, in L*, is reached.
CLOSE_ENOUGH = 2.0
# Strengths stay within so many stops of a source's present one, and a source that is to go out is this dim.
MOST_CHANGE_STOPS, OUT_STOPS = 7.0, -10.0
# How much an answer that stays near the present strengths is worth, in L* per stop.
CALM = 0.15
# Arrangements that are tried after the present one, until one reaches all.
OTHERS: tuple[SetupName, ...] = ("graded face", "softbox and fill", "strip pair")
NO_LIGHT = "no lamp or card that there is"
# Gauss-Newton steps from each first answer.
MOST_STEPS = 25


class ToneError(ValueError):
    """A part that has no tone; the message says which have."""


@dataclass(frozen=True)
class Reached:
    """A part, the L* that was wanted for it and the one it gets (None: it is not seen); why they differ."""

    region: str
    wanted: float
    reached: float | None
    reason: str


@dataclass(frozen=True)
class Solved:
    """Light that gives parts their tones, and how near each comes."""

    light: Light
    reached: tuple[Reached, ...]

    @property
    def lacks_light(self) -> bool:
        """Whether a part is too dark for want of a lamp or card, which another arrangement may have."""
        return any(part.reason.startswith(NO_LIGHT) for part in self.reached)

    @property
    def error(self) -> float:
        """The largest difference in L*."""
        apart = [abs(part.wanted - part.reached) for part in self.reached if part.reached is not None]
        return max(apart, default=0.0)


def light_by_tones(piece: ResolvedPiece, wanted: dict[str, float]) -> Solved:
    """Light under which the named parts (REGIONS) have these L*. Raises LetteringError, SolidError,
    SceneError, and ToneError for a part there is not."""
    for name in wanted:
        if name not in REGIONS:
            raise ToneError(f"there is no part “{name}”; take one of {', '.join(REGIONS)}")
    best = _solved(piece, wanted)
    for name in OTHERS:
        if best.error <= CLOSE_ENOUGH or not best.lacks_light:
            break
        if piece.light.setup is not None and piece.light.setup.name == name:
            continue
        light = lit_by(piece.light, FittedSetup(name=name, follows=False), piece)
        other = _solved(replace(piece, light=light), wanted)
        # Another arrangement must be clearly better: it changes more than was asked.
        if other.error < best.error - CLOSE_ENOUGH:
            best = other
    return best


def _solved(piece: ResolvedPiece, wanted: dict[str, float]) -> Solved:
    measured = measure(piece, cards=True)
    there = {name: tone for name, tone in wanted.items() if name in measured.regions}
    free = [at for at, name in enumerate(measured.names) if name != "glow"]
    stops = solve(measured, there, free)
    strengths = np.ones(len(measured.names))
    strengths[free] = 2.0**stops
    tones = measured.lightness(strengths)
    reached = [
        Reached(name, tone, round(tones[name], 1), _reason(measured, name, tone, tones[name], free))
        for name, tone in there.items()
    ]
    reached += [
        Reached(name, tone, None, f"hardly anything of it is seen: under {FEWEST_PX} px of a small picture")
        for name, tone in wanted.items()
        if name not in there
    ]
    changes = {measured.names[at]: float(stop) for at, stop in zip(free, stops, strict=True)}
    return Solved(_changed(piece.light, changes), tuple(reached))


def solve(measured: Measured, wanted: dict[str, float], free: list[int]) -> Array:
    """By how many stops each of the free sources must change (n,), so that the regions get their L*."""
    if not wanted or not free:
        return np.zeros(len(free))
    parts = [measured.regions[name] for name in wanted]
    targets = np.array(list(wanted.values()))
    means = np.array([[(part.sources[at] @ LUMINANCE).mean() for at in free] for part in parts])
    fixed = [at for at in range(len(measured.names)) if at not in free]
    given = np.array([((part.rest + part.sources[fixed].sum(axis=0)) @ LUMINANCE).mean() for part in parts])
    luminances = np.array([luminance_of(tone) for tone in targets]) / 2.0**measured.exposure
    # Each region counts by its own luminance: an error of so much L* is about the same share of it.
    weight = 1.0 / np.maximum(luminances, 1e-3)
    start, _ = nnls(means * weight[:, None], np.maximum(luminances - given, 0.0) * weight)
    begun = np.clip(np.log2(np.maximum(start, 2.0**OUT_STOPS)), -MOST_CHANGE_STOPS, MOST_CHANGE_STOPS)

    def residuals(stops: Array) -> Array:
        strengths = np.ones(len(measured.names))
        strengths[free] = 2.0**stops
        tones = measured.lightness(strengths)
        return np.concatenate([[tones[name] for name in wanted] - targets, CALM * stops])

    most = MOST_CHANGE_STOPS
    found = [
        least_squares(residuals, first, bounds=(-most, most), diff_step=1e-2, max_nfev=MOST_STEPS)
        for first in (np.zeros(len(free)), begun)
    ]
    return np.asarray(min(found, key=lambda answer: float(answer.cost)).x)


def _reason(measured: Measured, name: str, wanted: float, reached: float, free: list[int]) -> str:
    if abs(wanted - reached) <= CLOSE_ENOUGH:
        return ""
    alone = solve(measured, {name: wanted}, free)
    strengths = np.ones(len(measured.names))
    strengths[free] = 2.0**alone
    possible = measured.lightness(strengths)[name]
    if abs(possible - wanted) <= CLOSE_ENOUGH:
        return "only at the cost of the others: the same lamps and cards light them"
    if possible < wanted:
        return f"{NO_LIGHT} brings it over {possible:.0f}; add one that it mirrors or faces"
    return f"its own colour and what it always sees keep it over {possible:.0f}"


def _changed(light: Light, stops: dict[str, float]) -> Light:
    """The light with its sources changed by these stops."""
    surround = light.surround
    if isinstance(surround, Studio) and any(name.startswith("card ") for name in stops):
        # Cards are stronger or weaker against the room, whose strength they share.
        room = stops.get("room", 0.0)
        cards = tuple(
            card.model_copy(update={"strength": _round(card.strength + stops.get(f"card {n}", 0.0) - room)})
            for n, card in enumerate(surround.cards)
        )
        surround = surround.model_copy(update={"cards": cards})
    surround = surround.model_copy(update={"strength": _round(surround.strength + stops.get("room", 0.0))})
    lamps = tuple(
        lamp.model_copy(update={"strength": _round(lamp.strength + stops.get(f"lamp {n}", 0.0))})
        for n, lamp in enumerate(light.lamps)
    )
    setup = None if light.setup is None else light.setup.model_copy(update={"follows": False})
    return light.model_copy(update={"setup": setup, "lamps": lamps, "surround": surround})


def _round(stops: float) -> float:
    return round(min(max(stops, -30.0), 30.0), 2)
