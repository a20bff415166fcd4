"""The words for each kind of reference: how it stands, how surely, and whether it fits."""

from __future__ import annotations

from sequor.core.estimation.consistency import DISAGREE_SIGMAS
from sequor.core.estimation.least_squares import HALF_WIDTH_95
from sequor.core.references.registry import Kind
from sequor.pipeline.readings import ReferenceResult
from sequor.wording.numbers import decimals_for, degrees, plus_minus, slope_words

VERDICT_WORDS = {
    "agrees": "agrees",
    "disagrees": "disagrees",
    "receding?": "seems to run away",
    "alone": "nothing to check it",
    "off": "switched off",
}


class KindWords:
    """What is said of a line; kinds that are told otherwise say so."""

    noun = "line"
    """What one is called by its number."""
    lone = "line"
    """What it is called when it is the only one."""

    def uncertainty(self, result: ReferenceResult) -> str:
        """The 95 % half-width of what was measured on it."""
        return plus_minus(result.reading.sd_deg)

    def taken(self, result: ReferenceResult) -> str:
        """How it stands as taken."""
        return slope_words(result.reading)

    def after(self, result: ReferenceResult) -> str:
        """How it will stand in the export."""
        return degrees(result.after_deg, decimals_for(HALF_WIDTH_95 * result.reading.sd_deg))

    def leaning(self, result: ReferenceResult) -> str:
        """How it is seen to be off because an angle was left in."""
        return f"leans {self.after(result)} to the {'right' if result.after_deg > 0 else 'left'}"

    def verdict(self, result: ReferenceResult) -> str:
        """Whether it fits; it takes part and is not switched off.

        What is left in on purpose is no fault of a line: what counts is how it stands with all taken out.
        """
        return VERDICT_WORDS[result.verdict]


class Level(KindWords):
    lone = "level line"


class Plumb(KindWords):
    lone = "plumb line"

    def verdict(self, result: ReferenceResult) -> str:
        if result.verdict in ("agrees", "alone") and _stands_off(result):
            return "leans as the camera was aimed"
        return super().verdict(result)


class Receding(KindWords):
    lone = "receding line"


class Rectangle(KindWords):
    noun = lone = "rectangle"

    def taken(self, result: ReferenceResult) -> str:
        decimals = decimals_for(HALF_WIDTH_95 * result.reading.sd_deg)
        return f"sides up to {degrees(result.before_deg, decimals)} off"

    def leaning(self, result: ReferenceResult) -> str:
        return f"is up to {self.after(result)} off"


class Straight(KindWords):
    def uncertainty(self, result: ReferenceResult) -> str:
        return f"± {HALF_WIDTH_95 * result.sigma_px:.1f} px"

    def taken(self, result: ReferenceResult) -> str:
        return "straight" if result.verdict == "agrees" else f"bent by {result.bend_px:.1f} px"

    def after(self, result: ReferenceResult) -> str:
        return f"{result.after_px:.1f} px"

    def verdict(self, result: ReferenceResult) -> str:
        return "stays straight" if result.verdict == "agrees" else "not straight"


class Witness(KindWords):
    def verdict(self, result: ReferenceResult) -> str:
        """Whether it stands as it should; else how: "left wall now leans 0.4° out"."""
        if not _stands_off(result):
            return "stands as it should"
        size = self.after(result)
        if abs(result.reading.slope_deg) <= 45:
            end = "right" if result.after_deg > 0 else "left"
            return f"{end} end now {size} lower"
        across = result.middle[0]
        if 0.4 <= across <= 0.6:
            return f"now leans {'right' if result.after_deg > 0 else 'left'} {size}"
        outwards = (result.after_deg > 0) == (across > 0.5)
        return f"{'right' if across > 0.5 else 'left'} wall now leans {size} {'out' if outwards else 'in'}"


KIND_WORDS: dict[Kind, KindWords] = {
    "level": Level(),
    "plumb": Plumb(),
    "receding": Receding(),
    "rectangle": Rectangle(),
    "straight": Straight(),
    "witness": Witness(),
}


def uncertainty_words(result: ReferenceResult) -> str:
    """The 95 % half-width of what was measured on a reference."""
    return KIND_WORDS[result.kind].uncertainty(result)


def taken_words(result: ReferenceResult) -> str:
    """How a reference stands as taken."""
    return KIND_WORDS[result.kind].taken(result)


def after_words(result: ReferenceResult) -> str:
    """How a reference will stand in the export."""
    return KIND_WORDS[result.kind].after(result)


def verdict_words(result: ReferenceResult) -> str:
    """The verdict on a reference in words."""
    if result.verdict == "off":
        return VERDICT_WORDS["off"]
    if not result.takes_part:
        return "needs another beside it"
    return KIND_WORDS[result.kind].verdict(result)


def _stands_off(result: ReferenceResult) -> bool:
    """Whether it stands off with all that was solved taken out, by more than its own uncertainty."""
    return abs(result.misfit_deg) > DISAGREE_SIGMAS * result.reading.sd_deg
