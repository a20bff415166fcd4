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
from sequor.wording.numbers import UNNOTICED_DEG, decimals_for, degrees, plus_minus
from sequor.wording.words import HARDLY_MEANT_DEG, aimed, all_taken_out, focal_words, low_side, turned

LEFT_IN_WORDS = {"roll": "tilt", "pitch": "aim", "yaw": "turn aside"}


def finding(evaluation: Evaluated) -> str:
    """The sentence at the foot of the bench."""
    sentences = [
        *_attitude_sentences(evaluation),
        *_left_in_sentences(evaluation),
        *_why_things_lean(evaluation),
        *_doubts(evaluation),
        *frame_sentences(evaluation),
        *edges_sentences(evaluation),
    ]
    if evaluation.warp.cuts:
        sentences.append("Part of the photo would be stretched too far and is cut away.")
    return " ".join(sentences)


def _attitude_sentences(evaluation: Evaluated) -> list[str]:
    solution, by_hand = evaluation.solution, evaluation.recipe.correction.by_hand
    hand = [_by_hand_words(angle, getattr(by_hand, angle)) for angle in ANGLES if getattr(by_hand, angle)]
    if not solution.solved:
        words = [f"{' and '.join(hand)} by hand.".capitalize()] if hand else []
        if not evaluation.counting:
            return words or ["Nothing measured yet: lay a line along something level or upright."]
        return [*words, "These lines do not say yet how the camera was held: lay one more."]
    parts = []
    for angle in ANGLES:
        sd = solution.sd[angle]
        if sd is not None:
            parts.append(_solved_words(angle, getattr(solution.attitude, angle), sd))
    if len(parts) == 1 and parts[0].startswith("level"):
        return [f"The lines say the photo was taken level, {plus_minus(solution.sd['roll'] or 0.0)}."]
    subject = "The camera's" if parts[0].endswith("too low") else "The camera was"
    first, *rest = parts
    sentence = f"{subject} {first}" + "".join(f"; it was {part}" for part in rest) + "."
    return [sentence, *_focal_sentences(evaluation)]


def _solved_words(angle: Unknown, value: float, sd: float) -> str:
    decimals = decimals_for(HALF_WIDTH_95 * sd)
    if abs(value) < max(UNNOTICED_DEG, 0.5 * 10**-decimals):
        word = {"roll": "level", "pitch": "aimed level", "yaw": "square-on"}[angle]
        return f"{word} {plus_minus(sd)}"
    size = f"{degrees(value, decimals)} {plus_minus(sd)}"
    if angle == "roll":
        return f"{low_side(value)} side was {size} too low"
    word, side = (aimed(value) if angle == "pitch" else turned(value)).split()
    return f"{word} {size} {side}"


def _by_hand_words(angle: Unknown, value: float) -> str:
    if angle == "roll":
        return f"turned {'clockwise' if value > 0 else 'anticlockwise'} by {degrees(value)}"
    what = (
        "upward aim"
        if angle == "pitch" and value > 0
        else "downward aim"
        if angle == "pitch"
        else "turn aside"
    )
    return f"{degrees(value)} of {what} taken out"


def _focal_sentences(evaluation: Evaluated) -> list[str]:
    camera, solution = evaluation.camera, evaluation.solution
    rests = solution.sd["pitch"] is not None or solution.sd["yaw"] is not None
    if rests and camera.source in ("assumed", "lines", "correction"):
        return [
            f"Focal length {focal_words(evaluation)}; the height of things against their width rests on it."
        ]
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
        which = f"the {LEFT_IN_WORDS[angle]}" if len(solved) > 1 else "it"
        if rest * value > 0:
            words.append(f"{degrees(rest)} of {which} is left in.")
        else:
            words.append(f"{degrees(rest)} too much of {which} is taken out.")
    return words


def _why_things_lean(evaluation: Evaluated) -> list[str]:
    """What the lines say of the camera and nobody asked to take out is why some of them still lean."""
    solution, known = evaluation.solution, evaluation.solution.known
    if known is None or solution.conflicts:
        return []
    sentences = []
    for angle in solution.also_determined:
        value, sd = getattr(known.attitude, angle), known.sd_deg(angle) or 0.0
        if angle == "roll" or abs(value) < max(UNNOTICED_DEG, HALF_WIDTH_95 * sd):
            continue
        why = f"because the camera was {_solved_words(angle, value, sd)}."
        leaning = [line for line in evaluation.counting if _leans_with(line, angle)]
        if len(leaning) == 1:
            number = 1 + [result.id for result in evaluation.references].index(leaning[0].id)
            which = (
                "The wall"
                if angle == "pitch"
                else f"{KIND_WORDS[leaning[0].kind].noun.capitalize()} {number}"
            )
            sentences.append(f"{which} {KIND_WORDS[leaning[0].kind].leaning(leaning[0])} {why}")
        elif leaning:
            worst = max(leaning, key=lambda line: abs(line.after_deg))
            sentences.append(f"The walls lean, up to {after_words(worst)}, {why}")
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
                "This line is far from the middle: if the camera was aimed up or down, it leans anyway. "
                f"Draw a second vertical {side}{also}."
            )
    else:
        line = "Draw the horizon, or a level line that faces you"
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
            return [f"{len(counting)} lines, nothing to check them against."]
        return [f"One {KIND_WORDS[counting[0].kind].noun}, nothing to check it against."]
    return [conflict_words(conflict, numbers, kinds) for conflict in evaluation.solution.conflicts[:1]]


def conflict_words(conflict: Conflict, numbers: Mapping[str, int], kinds: Mapping[str, Kind]) -> str:
    """A disagreement in words: who, by how much, and what it may mean."""
    named = sorted(numbers[name] for name in conflict.ids)
    apart = f"{conflict.deg:.1f}°"
    if conflict.reason == "receding-as-level":
        return f"Line {named[0]} seems to run away from the camera: it stands {apart} off the others."
    if conflict.reason == "outlier":
        if kind_of(kinds[conflict.ids[0]]).joined:
            return f"Rectangle {named[0]} does not fit by {apart}."
        return f"Line {named[0]} stands {apart} off the others and is not followed."
    who = f"Lines {' and '.join(map(str, named))}" if len(named) < 4 else f"{len(named)} lines"
    who = who.replace(" and ", ", ", 1) if len(named) == 3 else who
    their = {kinds[name] for name in conflict.ids}
    if their == {"plumb"}:
        what = f"{who}: walls lean {apart} apart; the middle is taken"
    else:
        what = f"{who} disagree by {apart}; the difference is split"
    if conflict.turn_deg is None:
        return f"{what}."
    met = "both can be level" if their == {"level"} and len(named) == 2 else "all can be met"
    met = met if conflict.turn_meets else "they fit far better"
    meant = "take it?" if abs(conflict.turn_deg) <= HARDLY_MEANT_DEG else "hardly meant."
    return f"{what}; {met} if the picture is turned {abs(conflict.turn_deg):.0f}° aside: {meant}"
