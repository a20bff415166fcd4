"""The finding: what the lines say of the camera, what is left in and why, and what they do not say."""

from __future__ import annotations

from collections.abc import Mapping

from sequor.core.estimation.consistency import DISAGREE_SIGMAS, Conflict
from sequor.core.estimation.least_squares import HALF_WIDTH_95
from sequor.core.estimation.next_line import Advice
from sequor.core.estimation.unknowns import ANGLES, Unknown
from sequor.core.references.base import PLUMB
from sequor.core.references.registry import Kind, kind_of
from sequor.pipeline.evaluated import Evaluated
from sequor.pipeline.readings import ReferenceResult
from sequor.wording.edges import edges_sentences
from sequor.wording.frame import frame_sentences
from sequor.wording.kinds import KIND_WORDS, after_words
from sequor.wording.numbers import UNNOTICED_DEG, decimals_for, degrees, plus_minus, unnoticed
from sequor.wording.view import view_sentences
from sequor.wording.words import HARDLY_MEANT_DEG, all_taken_out, focal_words, pointed, tilted

LEFT_IN_WORDS = {"roll": "tilt", "pitch": "upward angle", "yaw": "sideways angle"}


def finding(evaluation: Evaluated) -> str:
    """The sentence at the foot of the bench. What disagrees comes first: beside it no ± is believed."""
    conflicts = _doubts(evaluation) if evaluation.solution.conflicts else []
    sentences = [
        *conflicts,
        *_attitude_sentences(evaluation),
        *_left_in_sentences(evaluation),
        *_why_things_lean(evaluation),
        *([] if conflicts else _doubts(evaluation)),
        *(["Lens not corrected: the ± allows for that."] if evaluation.lens_open else []),
        *view_sentences(evaluation),
        *frame_sentences(evaluation),
        *edges_sentences(evaluation),
    ]
    if evaluation.warp.cuts:
        sentences.append("Part of the photo would be stretched too far and is left out.")
    return " ".join(sentences)


def _attitude_sentences(evaluation: Evaluated) -> list[str]:
    solution, by_hand = evaluation.solution, evaluation.recipe.correction.by_hand
    hand = [_by_hand_words(angle, getattr(by_hand, angle)) for angle in ANGLES if getattr(by_hand, angle)]
    if not solution.solved:
        words = [f"{' and '.join(hand)} corrected by hand."] if hand else []
        if evaluation.counting and not set(ANGLES) & set(evaluation.recipe.correction.free):
            return [*words, "Nothing that your lines say is corrected."]
        if evaluation.counting:
            return [*words, "These lines are not enough to correct the picture. Draw one more."]
        if any(one.kind == "witness" for one in evaluation.references):
            return words or ["Only check lines so far: draw one to correct by."]
        return words or [
            "Nothing measured yet. Draw a line along the horizon or a vertical edge.",
            *(["The lens is corrected by its profile."] if evaluation.recipe.lens.profile else []),
        ]
    parts = [
        _solved_words(evaluation, angle, getattr(solution.attitude, angle), solution.sd[angle] or 0.0)
        for angle in ANGLES
        if solution.sd[angle] is not None and angle != "roll"
    ]
    camera = f"the camera pointed {' and '.join(parts)}" if parts else ""
    tilt = _tilt_words(evaluation) if solution.sd["roll"] is not None else ""
    sentence = "; ".join(part for part in (tilt, camera) if part)
    series = evaluation.recipe.correction.series
    together = [f"Found together with {series.photos - 1} other photos."] if series is not None else []
    return [f"{sentence[:1].upper()}{sentence[1:]}.", *together, *_focal_sentences(evaluation)]


def _tilt_words(evaluation: Evaluated) -> str:
    """The tilt in words: of the horizon, or, where only verticals were drawn, of these."""
    solution = evaluation.solution
    value, sd = solution.attitude.roll, solution.sd["roll"] or 0.0
    counting = evaluation.counting
    only_verticals = bool(counting) and all(line.kind == "plumb" for line in counting)
    what, verb = ("verticals", "lean") if only_verticals else ("the horizon", "drops")
    decimals = decimals_for(HALF_WIDTH_95 * sd)
    if unnoticed(value, decimals):
        state = "are straight" if only_verticals else "is level"
        return f"{what} {state}{_within(evaluation, sd)}"
    return f"as taken, {what} {verb} {degrees(value, decimals)}{_surely(evaluation, sd)} {tilted(value)}"


def _surely(evaluation: Evaluated, sd: float) -> str:
    return "" if evaluation.solution.conflicts else f" {plus_minus(sd)}"


def _within(evaluation: Evaluated, sd: float) -> str:
    return "" if evaluation.solution.conflicts else f" to within {plus_minus(sd).removeprefix('± ')}"


def _solved_words(evaluation: Evaluated, angle: Unknown, value: float, sd: float) -> str:
    """Where the camera pointed, after the words "the camera pointed"."""
    decimals = decimals_for(HALF_WIDTH_95 * sd)
    if unnoticed(value, decimals):
        word = "level" if angle == "pitch" else "square-on"
        return f"{word}{_within(evaluation, sd)}"
    return f"{degrees(value, decimals)}{_surely(evaluation, sd)} {pointed(angle, value)}"


def _by_hand_words(angle: Unknown, value: float) -> str:
    if angle == "roll":
        return f"{degrees(value)} of tilt {tilted(value)}"
    what = "sideways" if angle == "yaw" else "upward" if value > 0 else "downward"
    return f"{degrees(value)} of {what} angle"


def _focal_sentences(evaluation: Evaluated) -> list[str]:
    camera, solution = evaluation.camera, evaluation.solution
    rests = solution.sd["pitch"] is not None or solution.sd["yaw"] is not None
    if rests and camera.source in ("assumed", "lines", "correction"):
        return [f"Focal length {focal_words(evaluation)}; heights and widths depend on it."]
    return []


def _left_in_sentences(evaluation: Evaluated) -> list[str]:
    """What is deliberately left in is told here, once."""
    solution, correction = evaluation.solution, evaluation.recipe.correction
    solved = [angle for angle in ANGLES if solution.sd[angle] is not None]
    if solved and not any(getattr(correction.on, angle) for angle in solved):
        return ["The correction is switched off."]
    words = []
    for angle in solved:
        value, rest = getattr(solution.attitude, angle), evaluation.left_in(angle)
        if all_taken_out(evaluation, angle) and not getattr(correction.by_hand, angle):
            continue
        if abs(rest) < UNNOTICED_DEG:
            continue
        if rest * value > 0:
            words.append(f"{degrees(rest)} of the {LEFT_IN_WORDS[angle]} is left uncorrected.")
        else:
            words.append(f"The {LEFT_IN_WORDS[angle]} is over-corrected by {degrees(rest)}.")
    return words


def _why_things_lean(evaluation: Evaluated) -> list[str]:
    """What the lines say of the camera and nobody asked to correct is why some of them still lean."""
    solution, known = evaluation.solution, evaluation.solution.known
    if known is None or solution.conflicts:
        return []
    sentences = []
    for angle in solution.also_determined:
        value, sd = getattr(known.attitude, angle), known.sd_deg(angle) or 0.0
        if angle == "roll" or abs(value) < max(UNNOTICED_DEG, HALF_WIDTH_95 * sd):
            continue
        why = f"because the camera pointed {_solved_words(evaluation, angle, value, sd)}."
        leaning = [line for line in evaluation.counting if _leans_with(line, angle)]
        if len(leaning) == 1:
            number = 1 + [result.id for result in evaluation.references].index(leaning[0].id)
            words = KIND_WORDS[leaning[0].kind]
            sentences.append(f"{words.noun.capitalize()} {number} {words.leaning(leaning[0])} {why}")
        elif leaning:
            worst = max(leaning, key=lambda line: abs(line.after_deg))
            sentences.append(f"Verticals lean by up to {after_words(worst)}, {why}")
    return sentences


def _leans_with(result: ReferenceResult, angle: Unknown) -> bool:
    """Whether a reference is seen to be off because an angle was left in."""
    kind = kind_of(result.kind)
    minds = PLUMB in kind.directions if angle == "pitch" else kind.joined
    return minds and abs(result.after_deg) > DISAGREE_SIGMAS * result.reading.sd_deg


def advice_words(evaluation: Evaluated, advice: Advice) -> str:
    """The one line that would help most, and why."""
    counting = evaluation.counting
    also = ", or the horizon" if advice.kind == "plumb" and advice.other_kind_too else ""
    if advice.kind == "plumb":
        across = (advice.band[0] + advice.band[2] / 2) / evaluation.camera.width
        side = "on the left" if across < 0.4 else "on the right" if across > 0.6 else "in the middle"
        line = f"Draw a vertical {side}{also}"
        if len(counting) == 1 and counting[0].kind == "plumb" and advice.angle == "roll":
            return (
                "This line is far from the middle: if the camera pointed up or down, it leans anyway. "
                f"Draw a second vertical {side}{also}."
            )
    else:
        line = "Draw the horizon, or a horizontal that you face square-on"
    what = LEFT_IN_WORDS[advice.angle]
    then, now = plus_minus(advice.sd_then), plus_minus(advice.sd_now)
    return f"{line}: the {what} would be known to {then} instead of {now}."


def _doubts(evaluation: Evaluated) -> list[str]:
    numbers = {result.id: index + 1 for index, result in enumerate(evaluation.references)}
    kinds = {result.id: result.kind for result in evaluation.references}
    counting = evaluation.counting
    if counting and all(result.verdict == "alone" for result in counting):
        many = len(counting) > 1
        if many:
            return [f"{len(counting)} lines, and none checks another. One more would."]
        noun = KIND_WORDS[counting[0].kind].noun
        return [f"There is only one {noun}, so nothing checks it. A second would."]
    return [conflict_words(conflict, numbers, kinds) for conflict in evaluation.solution.conflicts[:1]]


def conflict_words(conflict: Conflict, numbers: Mapping[str, int], kinds: Mapping[str, Kind]) -> str:
    """A disagreement in words: who, by how much, and what it may mean."""
    named = sorted(numbers[name] for name in conflict.ids)
    apart = f"{conflict.deg:.1f}°"
    if conflict.reason == "receding-as-level":
        return f"Line {named[0]} probably recedes: it is {apart} off the others."
    if conflict.reason == "outlier":
        if kind_of(kinds[conflict.ids[0]]).joined:
            return f"Rectangle {named[0]} is {apart} off the other lines."
        return f"Line {named[0]} is {apart} off the others and is ignored."
    who = f"Lines {' and '.join(map(str, named))}" if len(named) < 4 else f"{len(named)} lines"
    who = who.replace(" and ", ", ", 1) if len(named) == 3 else who
    their = {kinds[name] for name in conflict.ids}
    if their == {"plumb"}:
        what = f"{who}: the verticals are {apart} apart; the correction is half-way"
    else:
        what = f"{who} disagree by {apart}; the correction is in between"
    if conflict.turn_deg is None:
        return f"{what}."
    met = "both could be level" if their == {"level"} and len(named) == 2 else "all could be right"
    met = met if conflict.turn_meets else "they would fit much better"
    meant = "." if abs(conflict.turn_deg) <= HARDLY_MEANT_DEG else ", which is unlikely."
    return f"{what}; {met} if the camera pointed {abs(conflict.turn_deg):.0f}° to one side{meant}"
