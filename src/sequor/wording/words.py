"""What is true, in words: readings, verdicts, the state of a photo and the finding.

People are told "the right side was 1.2° too low", never a sign. The ± is the 95 % half-width and the
decimals follow it.
"""

from __future__ import annotations

import math
from typing import Literal

from sequor.core.estimation.consistency import DISAGREE_SIGMAS
from sequor.core.estimation.least_squares import HALF_WIDTH_95
from sequor.core.estimation.unknowns import ANGLES, Unknown
from sequor.core.references.base import Reading
from sequor.pipeline.evaluate import Evaluation
from sequor.pipeline.readings import ReferenceResult
from sequor.recipe.model import ProfilePart

State = Literal[
    "not measured",
    "lines laid, nothing taken out",
    "level",
    "upright",
    "square-on",
    "turned by hand",
    "lines disagree",
]

UNNOTICED_DEG = 0.005
"""Under half of the last decimal that is shown, an angle is called exactly level."""

HARDLY_MEANT_DEG = 30.0
"""A picture turned farther aside than this was hardly taken so by mistake (common practice, no source)."""

VERDICT_WORDS = {
    "agrees": "agrees",
    "disagrees": "disagrees",
    "receding?": "seems to run away",
    "alone": "nothing to check it",
    "off": "switched off",
}

UNREADABLE = "last state cannot be read"
"""The state of a photo whose recipe was damaged."""


def decimals_for(half_width: float | None) -> int:
    """How many decimals an angle deserves: the half-width keeps one figure, between 1 and 3 decimals.

    >>> decimals_for(0.04), decimals_for(0.3), decimals_for(None)
    (2, 1, 2)
    """
    if half_width is None or half_width <= 0:
        return 2
    return min(3, max(1, -math.floor(math.log10(half_width))))


def degrees(value: float, decimals: int = 2) -> str:
    """An angle without its sign."""
    return f"{abs(value):.{decimals}f}°"


def plus_minus(sd: float) -> str:
    """The 95 % half-width of a standard deviation in degrees."""
    half = HALF_WIDTH_95 * sd
    return f"± {half:.{decimals_for(half)}f}°"


def uncertainty_words(result: ReferenceResult) -> str:
    """The 95 % half-width of what was measured on a reference."""
    if result.kind == "straight":
        return f"± {HALF_WIDTH_95 * result.sigma_px:.1f} px"
    return plus_minus(result.reading.sd_deg)


def taken_words(result: ReferenceResult) -> str:
    """How a reference stands as taken."""
    if result.kind == "straight":
        return bend_words(result)
    if result.kind == "rectangle":
        decimals = decimals_for(HALF_WIDTH_95 * result.reading.sd_deg)
        return f"sides up to {degrees(result.before_deg, decimals)} off"
    return slope_words(result.reading)


def bend_words(result: ReferenceResult) -> str:
    """How far a straight thing is bent."""
    return "straight" if result.verdict == "agrees" else f"bent by {result.bend_px:.1f} px"


def slope_words(reading: Reading) -> str:
    """How a line stands as taken, in words."""
    half = HALF_WIDTH_95 * reading.sd_deg
    decimals = decimals_for(half)
    if abs(reading.slope_deg) <= 45:
        return side_words(reading.slope_deg, "right end", "left end", "lower", "runs level", decimals)
    return side_words(reading.lean_deg, "leans right", "leans left", "", "stands upright", decimals)


def side_words(value: float, positive: str, negative: str, what: str, zero: str, decimals: int) -> str:
    """A signed angle as words: ``positive`` or ``negative`` with the size, or ``zero``."""
    if abs(value) < max(UNNOTICED_DEG, 0.5 * 10**-decimals):
        return zero
    return f"{positive if value > 0 else negative} {degrees(value, decimals)} {what}".strip()


def after_words(result: ReferenceResult) -> str:
    """How the reference will stand in the export."""
    if result.kind == "straight":
        return f"{result.after_px:.1f} px"
    return degrees(result.after_deg, decimals_for(HALF_WIDTH_95 * result.reading.sd_deg))


def verdict_words(result: ReferenceResult) -> str:
    """The verdict in words; a witness says whether it stands as it should.

    What is left in on purpose is no fault of a line: only what stands off with all of it taken out is told.
    """
    if result.kind == "straight" and result.verdict != "off":
        return "stays straight" if result.verdict == "agrees" else "not straight"
    if not result.takes_part and result.verdict != "off":
        return "needs another beside it"
    explained = result.kind == "plumb" and result.verdict in ("agrees", "alone")
    if explained and abs(result.misfit_deg) > DISAGREE_SIGMAS * result.reading.sd_deg:
        return "leans as the camera was aimed"
    if result.verdict == "witness":
        if abs(result.misfit_deg) <= DISAGREE_SIGMAS * result.reading.sd_deg:
            return "stands as it should"
        return witness_words(result)
    return VERDICT_WORDS[result.verdict]


def witness_words(result: ReferenceResult) -> str:
    """How a witness that is off stands afterwards: "left wall now leans 0.4° out"."""
    size = after_words(result)
    if abs(result.reading.slope_deg) <= 45:
        end = "right" if result.after_deg > 0 else "left"
        return f"{end} end now {size} lower"
    across = result.middle[0]
    if 0.4 <= across <= 0.6:
        return f"now leans {'right' if result.after_deg > 0 else 'left'} {size}"
    outwards = (result.after_deg > 0) == (across > 0.5)
    return f"{'right' if across > 0.5 else 'left'} wall now leans {size} {'out' if outwards else 'in'}"


def angle_words(angle: Unknown, value: float) -> str:
    """How the camera was held, for the vernier of an angle."""
    if abs(value) < UNNOTICED_DEG:
        return {"roll": "level as taken", "pitch": "aimed level", "yaw": "square-on as taken"}[angle]
    if angle == "roll":
        return f"camera's {low_side(value)} side was too low"
    return aimed(value) if angle == "pitch" else turned(value)


def low_side(roll: float) -> str:
    """The camera's side that was too low: a camera turned clockwise has its right side down."""
    return "right" if roll > 0 else "left"


def aimed(pitch: float) -> str:
    """Where the camera was aimed."""
    return "aimed up" if pitch > 0 else "aimed down"


def turned(yaw: float) -> str:
    """Whereto the camera was turned aside."""
    return "turned right" if yaw > 0 else "turned left"


def state(evaluation: Evaluation) -> State:
    """The state of a photo. "Level" only when all of it is taken out and nothing disagrees."""
    solution = evaluation.solution
    if any(result.verdict in ("disagrees", "receding?") for result in evaluation.counting):
        return "lines disagree"
    by_hand = evaluation.recipe.correction.by_hand
    if not evaluation.counting or not solution.solved:
        return "turned by hand" if any(getattr(by_hand, angle) for angle in ANGLES) else "not measured"
    # Everything is taken out when nothing but the lines' own uncertainty is left.
    done = [all_taken_out(evaluation, angle) for angle in ANGLES]
    reached: list[tuple[bool, State]] = [
        (all(done) and solution.sd["yaw"] is not None, "square-on"),
        (done[0] and done[1] and solution.sd["pitch"] is not None, "upright"),
        (done[0] and solution.sd["roll"] is not None, "level"),
        (_nothing_taken_out(evaluation), "lines laid, nothing taken out"),
        (True, "turned by hand"),
    ]
    return next(words for holds, words in reached if holds)


def _nothing_taken_out(evaluation: Evaluation) -> bool:
    return all(abs(evaluation.taken_out(angle)) < UNNOTICED_DEG for angle in ANGLES)


def all_taken_out(evaluation: Evaluation, angle: Unknown) -> bool:
    """Whether nothing of a solved angle is left but what the lines cannot say.

    How well the lines are drawn counts, not what else of the camera they leave open.
    """
    drawn = max((result.reading.sd_deg for result in evaluation.counting), default=0.0)
    sd = min(evaluation.solution.sd[angle] or 0.0, drawn)
    return abs(evaluation.left_in(angle)) <= max(UNNOTICED_DEG, HALF_WIDTH_95 * sd)


def lens_words(evaluation: Evaluation) -> str:
    """The state of the step Lens, for the route."""
    part = evaluation.recipe.lens
    if part.profile is not None:
        return f"profile: {_without_maker(part.profile)}"
    if part.source == "straight":
        bending = evaluation.solution.bending
        if not bending.things:
            return "no straight thing yet"
        things = "1 straight thing" if bending.things == 1 else f"{bending.things} straight things"
        return f"from {things}" if bending.names else f"{things}, not enough"
    return "by hand" if part.source == "manual" else "not corrected"


def _without_maker(profile: ProfilePart) -> str:
    """A lens without the words that its camera is called by too."""
    lens, camera = profile.lens.split(), profile.camera.split()
    while len(lens) > 1 and camera[:1] == lens[:1]:
        lens, camera = lens[1:], camera[1:]
    return " ".join(lens)


def bending_words(evaluation: Evaluation) -> str:
    """What the lens did to the photo's corners, in words, as far as it is known."""
    share = evaluation.corner_growth - 1
    if evaluation.recipe.lens.source == "none":
        return "nothing is taken out"
    if abs(share) < 0.00005:
        return "bends nothing"
    half = None
    if evaluation.corner_sd:
        half = HALF_WIDTH_95 * 100 * evaluation.corner_sd
    decimals = decimals_for(half)
    size = f"{100 * abs(share):.{decimals}f}" + (f" ± {half:.{decimals}f}" if half else "") + " %"
    return f"bowed outwards, corners in by {size}" if share < 0 else f"pinched, corners out by {size}"


def under_words(
    way: Literal["level", "upright"], taken: float | None, edge: float | None, edge_sd: float | None
) -> str:
    """What the picture does under a still line: how an edge there stands now, and what that was as taken."""
    if taken is None:
        return "beside the picture"
    ways = (
        ("right end", "left end", "lower", "runs level")
        if way == "level"
        else ("leans right", "leans left", "", "stands upright")
    )
    before = f"as taken: {side_words(taken, *ways, 2)}"
    if edge is None or edge_sd is None:
        return f"no clear edge · {before}"
    return f"edge: {side_words(edge, *ways, decimals_for(HALF_WIDTH_95 * edge_sd))} · {before}"


def lines_words(evaluation: Evaluation) -> str:
    """The state of the step Lines, for the route."""
    counting = evaluation.counting
    disagreeing = sum(result.verdict in ("disagrees", "receding?") for result in counting)
    if disagreeing:
        return f"{disagreeing} disagree"
    if len(counting) > 1:
        unchecked = all(result.verdict == "alone" for result in counting)
        return f"{len(counting)} lines, unchecked" if unchecked else f"{len(counting)} agree"
    if counting:
        return "1 rectangle" if counting[0].kind == "rectangle" else f"1 {counting[0].kind} line"
    straight = [result for result in evaluation.references if result.kind == "straight"]
    if straight and len(straight) == len(evaluation.references):
        return "1 straight thing" if len(straight) == 1 else f"{len(straight)} straight things"
    if evaluation.references:
        return (
            "1 checks only" if len(evaluation.references) == 1 else f"{len(evaluation.references)} check only"
        )
    return "none laid yet"


def focal_words(evaluation: Evaluation) -> str:
    """The focal length that angles and proportions rest on, and where it comes from."""
    camera = evaluation.camera
    found = "focal_px" in evaluation.recipe.correction.free
    source = {
        "correction": "from the lines" if found else "given",
        "photo": "given with the photo",
        "35mm": "from the file",
        "assumed": "assumed",
        "lines": "from the lines",
    }
    return f"{camera.equivalent_mm:.0f} mm at 35 mm, {source[camera.source]}"
