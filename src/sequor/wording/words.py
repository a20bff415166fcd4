"""What is true of a photo, in words: how its camera was held, its lens, and its state at every step."""

from __future__ import annotations

from typing import Literal

from sequor.core.estimation.least_squares import HALF_WIDTH_95
from sequor.core.estimation.unknowns import ANGLES, Unknown
from sequor.core.references.registry import kind_of
from sequor.pipeline.evaluated import Evaluated
from sequor.recipe.model.lens import ProfilePart
from sequor.wording.kinds import KIND_WORDS
from sequor.wording.numbers import UNNOTICED_DEG, decimals_for, side_words

State = Literal[
    "not measured",
    "lines laid, nothing taken out",
    "level",
    "upright",
    "square-on",
    "turned by hand",
    "lines disagree",
]

HARDLY_MEANT_DEG = 30.0
"""A picture turned farther aside than this was hardly taken so by mistake (common practice, no source)."""

UNREADABLE = "last state cannot be read"
"""The state of a photo whose recipe was damaged."""


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


def state(evaluation: Evaluated) -> State:
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


def _nothing_taken_out(evaluation: Evaluated) -> bool:
    return all(abs(evaluation.taken_out(angle)) < UNNOTICED_DEG for angle in ANGLES)


def all_taken_out(evaluation: Evaluated, angle: Unknown) -> bool:
    """Whether nothing of a solved angle is left but what the lines cannot say.

    How well the lines are drawn counts, not what else of the camera they leave open.
    """
    drawn = max((result.reading.sd_deg for result in evaluation.counting), default=0.0)
    sd = min(evaluation.solution.sd[angle] or 0.0, drawn)
    return abs(evaluation.left_in(angle)) <= max(UNNOTICED_DEG, HALF_WIDTH_95 * sd)


def lens_words(evaluation: Evaluated) -> str:
    """The state of the step Lens, for the route."""
    part = evaluation.recipe.lens
    if part.profile is not None:
        return f"profile: {_without_maker(part.profile)}"
    if part.source == "straight":
        distortion = evaluation.solution.distortion
        if not distortion.things:
            return "no straight thing yet"
        things = "1 straight thing" if distortion.things == 1 else f"{distortion.things} straight things"
        return f"from {things}" if distortion.names else f"{things}, not enough"
    return "by hand" if part.source == "manual" else "not corrected"


def _without_maker(profile: ProfilePart) -> str:
    """A lens without the words that its camera is called by too."""
    lens, camera = profile.lens.split(), profile.camera.split()
    while len(lens) > 1 and camera[:1] == lens[:1]:
        lens, camera = lens[1:], camera[1:]
    return " ".join(lens)


def bending_words(evaluation: Evaluated) -> str:
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
    runs: Literal["level", "upright"], taken: float | None, edge: float | None, edge_sd: float | None
) -> str:
    """What the picture does under a still line: how an edge there stands now, and what that was as taken."""
    if taken is None:
        return "beside the picture"
    said = (
        ("right end", "left end", "lower", "runs level")
        if runs == "level"
        else ("leans right", "leans left", "", "stands upright")
    )
    before = f"as taken: {side_words(taken, *said, 2)}"
    if edge is None or edge_sd is None:
        return f"no clear edge · {before}"
    return f"edge: {side_words(edge, *said, decimals_for(HALF_WIDTH_95 * edge_sd))} · {before}"


def lines_words(evaluation: Evaluated) -> str:
    """The state of the step Lines, for the route."""
    counting = evaluation.counting
    disagreeing = sum(result.verdict in ("disagrees", "receding?") for result in counting)
    if disagreeing:
        return f"{disagreeing} disagree"
    if len(counting) > 1:
        unchecked = all(result.verdict == "alone" for result in counting)
        return f"{len(counting)} lines, unchecked" if unchecked else f"{len(counting)} agree"
    if counting:
        return f"1 {KIND_WORDS[counting[0].kind].lone}"
    straight = [one for one in evaluation.references if kind_of(one.kind).tells_lens]
    if straight and len(straight) == len(evaluation.references):
        return "1 straight thing" if len(straight) == 1 else f"{len(straight)} straight things"
    if evaluation.references:
        return (
            "1 checks only" if len(evaluation.references) == 1 else f"{len(evaluation.references)} check only"
        )
    return "none laid yet"


def focal_words(evaluation: Evaluated) -> str:
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
