"""What is true of a photo, in words: how its camera was held, its lens, and its state at every step.

One side for one tilt: that to which the horizon drops and verticals lean (docs/glossary.md).
"""

from __future__ import annotations

from typing import Literal

from sequor.core.estimation.least_squares import HALF_WIDTH_95
from sequor.core.estimation.unknowns import ANGLES, Unknown
from sequor.core.references.registry import kind_of
from sequor.pipeline.evaluated import Evaluated
from sequor.recipe.model.lens import ProfilePart
from sequor.wording.kinds import KIND_WORDS
from sequor.wording.numbers import UNNOTICED_DEG, decimals_for, drops_words, leans_words, to_the

State = Literal[
    "not measured",
    "lines drawn, not corrected",
    "level",
    "verticals straight",
    "square-on",
    "corrected by hand",
    "lines disagree",
]

HARDLY_MEANT_DEG = 30.0
"""A camera that pointed farther aside than this was hardly meant square-on (common practice, no source)."""

UNREADABLE = "last state cannot be read"
"""The state of a photo whose recipe was damaged."""


def angle_words(angle: Unknown, value: float) -> str:
    """How the picture was taken, after the number on the vernier of an angle."""
    if abs(value) < UNNOTICED_DEG:
        return {"roll": "not tilted", "pitch": "pointed level", "yaw": "already square-on"}[angle]
    if angle == "roll":
        return tilted(value)
    return f"pointed {pointed(angle, value)}"


def tilted(roll: float) -> str:
    """The side to which the horizon drops: a camera turned clockwise shows it dropping to the left."""
    return to_the(roll < 0)


def turned_to(degrees: float) -> str:
    """Which way a picture is turned, by degrees clockwise."""
    return to_the(degrees > 0)


def pointed(angle: Unknown, value: float) -> str:
    """Where the camera pointed, by its pitch or its yaw."""
    if angle == "pitch":
        return "up" if value > 0 else "down"
    return to_the(value > 0)


def state(evaluation: Evaluated) -> State:
    """The state of a photo. "Level" only when all of it is taken out and nothing disagrees."""
    solution = evaluation.solution
    if any(result.verdict in ("disagrees", "receding?") for result in evaluation.counting):
        return "lines disagree"
    by_hand = evaluation.recipe.correction.by_hand
    shared = evaluation.recipe.correction.series is not None
    if not (evaluation.counting or shared) or not solution.solved:
        return "corrected by hand" if any(getattr(by_hand, angle) for angle in ANGLES) else "not measured"
    # Everything is taken out when nothing but the lines' own uncertainty is left.
    done = [all_taken_out(evaluation, angle) for angle in ANGLES]
    reached: list[tuple[bool, State]] = [
        (all(done) and solution.sd["yaw"] is not None, "square-on"),
        (done[0] and done[1] and solution.sd["pitch"] is not None, "verticals straight"),
        (done[0] and solution.sd["roll"] is not None, "level"),
        (_nothing_taken_out(evaluation), "lines drawn, not corrected"),
        (True, "corrected by hand"),
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
            return "no straight edge yet"
        things = "1 straight edge" if distortion.things == 1 else f"{distortion.things} straight edges"
        return f"from {things}" if distortion.names else f"{things}: not enough"
    if part.fisheye:
        return f"fisheye, {part.model}"
    return "by hand" if part.source == "manual" else "not corrected"


def _without_maker(profile: ProfilePart) -> str:
    """A lens without the words that its camera is called by too."""
    lens, camera = profile.lens.split(), profile.camera.split()
    while len(lens) > 1 and camera[:1] == lens[:1]:
        lens, camera = lens[1:], camera[1:]
    return " ".join(lens)


def bending_words(evaluation: Evaluated) -> str:
    """What the lens did to the photo's corners, in words, as far as it is known."""
    if evaluation.recipe.lens.source == "none":
        return "not corrected"
    if evaluation.recipe.lens.fisheye:
        return f"fisheye, {evaluation.camera.equivalent_mm:.1f} mm full-frame equivalent"
    share = evaluation.corner_growth - 1
    if abs(share) < 0.00005:
        return "no distortion"
    half = None
    if evaluation.corner_sd:
        half = HALF_WIDTH_95 * 100 * evaluation.corner_sd
    decimals = decimals_for(half)
    size = f"{100 * abs(share):.{decimals}f}" + (f" ± {half:.{decimals}f}" if half else "") + "%"
    return f"{'barrel' if share < 0 else 'pincushion'} distortion, {size} at the corners"


def under_words(
    runs: Literal["level", "upright"], taken: float | None, edge: float | None, edge_sd: float | None
) -> str:
    """What the picture does under a guide: how an edge there stands now, and what that was as taken."""
    if taken is None:
        return "Outside the picture"
    said = drops_words if runs == "level" else leans_words
    before = f"as taken: {said(taken, 2)}"
    if edge is None or edge_sd is None:
        return f"No clear edge here · {before}"
    return f"Edge: {said(edge, decimals_for(HALF_WIDTH_95 * edge_sd))} · {before}"


def lines_words(evaluation: Evaluated) -> str:
    """The state of the step Lines, for the route."""
    counting = evaluation.counting
    disagreeing = sum(result.verdict in ("disagrees", "receding?") for result in counting)
    if disagreeing:
        return "1 line disagrees" if disagreeing == 1 else f"{disagreeing} lines disagree"
    if len(counting) > 1:
        unchecked = all(result.verdict == "alone" for result in counting)
        return f"{len(counting)} lines, not checked" if unchecked else f"{len(counting)} lines agree"
    if counting:
        return f"1 {KIND_WORDS[counting[0].kind].called}"
    straight = [one for one in evaluation.references if kind_of(one.kind).tells_lens]
    if straight and len(straight) == len(evaluation.references):
        return "1 straight edge" if len(straight) == 1 else f"{len(straight)} straight edges"
    if evaluation.references:
        count = len(evaluation.references)
        return "1 check line" if count == 1 else f"{count} check lines"
    return "no lines yet"


def focal_words(evaluation: Evaluated) -> str:
    """The focal length that angles and proportions rest on, and where it comes from."""
    camera = evaluation.camera
    found = "focal_px" in evaluation.recipe.correction.free
    source = {
        "correction": "from your lines" if found else "as typed",
        "photo": "given with the photo",
        "35mm": "from the file",
        "assumed": "assumed",
        "lines": "from your lines",
        "lens": "that of the fisheye",
    }
    return f"{camera.equivalent_mm:.0f} mm full-frame equivalent, {source[camera.source]}"
