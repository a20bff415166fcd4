"""The words for each kind of reference: how it stands, how surely, and whether it fits."""

from __future__ import annotations

from sequor.core.estimation.consistency import DISAGREE_SIGMAS
from sequor.core.estimation.least_squares import HALF_WIDTH_95
from sequor.core.references.registry import Kind
from sequor.pipeline.readings import ReferenceResult
from sequor.wording.numbers import decimals_for, degrees, plus_minus, slope_words, to_the, unnoticed

VERDICT_WORDS = {
    "agrees": "agrees",
    "disagrees": "disagrees",
    "receding?": "probably recedes",
    "alone": "not checked yet",
    "off": "ignored",
}


class KindWords:
    """What is said of a line; kinds that are told otherwise say so."""

    noun = "line"
    """What one is called by its number."""
    called = "line"
    """What its kind is called."""

    def uncertainty(self, result: ReferenceResult) -> str:
        """The 95 % half-width of what was measured on it."""
        return plus_minus(result.reading.sd_deg)

    def taken(self, result: ReferenceResult) -> str:
        """How it stands as taken."""
        return slope_words(result.reading)

    def brief(self, result: ReferenceResult, surely: bool) -> str:
        """How it stands as taken, as short as a list has room for; ``surely``: with its ±."""
        reading = result.reading
        decimals = decimals_for(HALF_WIDTH_95 * reading.sd_deg)
        level = abs(reading.slope_deg) <= 45
        value = reading.slope_deg if level else reading.lean_deg
        sure = f" {plus_minus(reading.sd_deg)}" if surely else ""
        if unnoticed(value, decimals):
            return f"{'level' if level else 'vertical'}{sure}"
        return f"{degrees(value, decimals)}{sure} {'right' if value > 0 else 'left'}"

    def after(self, result: ReferenceResult) -> str:
        """How it will stand in the export."""
        return degrees(result.after_deg, decimals_for(HALF_WIDTH_95 * result.reading.sd_deg))

    def leaning(self, result: ReferenceResult) -> str:
        """How it is seen to be off because an angle was left in."""
        return f"leans {self.after(result)} {to_the(result.after_deg > 0)}"

    def verdict(self, result: ReferenceResult) -> str:
        """Whether it fits; it takes part and is not switched off.

        What is left in on purpose is no fault of a line: what counts is how it stands with all taken out.
        """
        return VERDICT_WORDS[result.verdict]


class Level(KindWords):
    called = "horizontal"

    def leaning(self, result: ReferenceResult) -> str:
        return f"drops {self.after(result)} {to_the(result.after_deg > 0)}"


class Plumb(KindWords):
    called = "vertical"

    def verdict(self, result: ReferenceResult) -> str:
        if result.verdict in ("agrees", "alone") and _stands_off(result):
            return "leans as the camera pointed"
        return super().verdict(result)


class Receding(KindWords):
    called = "receding line"


class Rectangle(KindWords):
    noun = called = "rectangle"

    def taken(self, result: ReferenceResult) -> str:
        decimals = decimals_for(HALF_WIDTH_95 * result.reading.sd_deg)
        return f"sides up to {degrees(result.before_deg, decimals)} out of true"

    def brief(self, result: ReferenceResult, surely: bool) -> str:
        decimals = decimals_for(HALF_WIDTH_95 * result.reading.sd_deg)
        return f"up to {degrees(result.before_deg, decimals)} off"

    def leaning(self, result: ReferenceResult) -> str:
        return f"is up to {self.after(result)} out of true"


class Straight(KindWords):
    called = "straight edge"

    def uncertainty(self, result: ReferenceResult) -> str:
        return f"± {HALF_WIDTH_95 * result.sigma_px:.1f} px"

    def taken(self, result: ReferenceResult) -> str:
        return "straight" if result.verdict == "agrees" else f"curved by {result.bend_px:.1f} px"

    def brief(self, result: ReferenceResult, surely: bool) -> str:
        return self.taken(result)

    def after(self, result: ReferenceResult) -> str:
        return f"{result.after_px:.1f} px"

    def verdict(self, result: ReferenceResult) -> str:
        return "straight" if result.verdict == "agrees" else "not straight"


class Witness(KindWords):
    called = "check line"

    def verdict(self, result: ReferenceResult) -> str:
        """Whether it is as it should be; else how: "now leans 0.4° to the left, outwards"."""
        if not _stands_off(result):
            return "as it should be"
        aside = f"{self.after(result)} {to_the(result.after_deg > 0)}"
        if abs(result.reading.slope_deg) <= 45:
            return f"now drops {aside}"
        across = result.middle[0]
        if 0.4 <= across <= 0.6:
            return f"now leans {aside}"
        outwards = (result.after_deg > 0) == (across > 0.5)
        return f"now leans {aside}, {'outwards' if outwards else 'inwards'}"


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


def brief_words(result: ReferenceResult) -> str:
    """How a reference stands as taken, for a list; beside a disagreement no ± is believed."""
    return KIND_WORDS[result.kind].brief(result, result.verdict not in ("disagrees", "receding?"))


def after_words(result: ReferenceResult) -> str:
    """How a reference will stand in the export."""
    return KIND_WORDS[result.kind].after(result)


def verdict_words(result: ReferenceResult) -> str:
    """The verdict on a reference in words."""
    if result.verdict == "off":
        return VERDICT_WORDS["off"]
    if not result.takes_part:
        return "needs a second parallel line"
    return KIND_WORDS[result.kind].verdict(result)


def _stands_off(result: ReferenceResult) -> bool:
    """Whether it stands off with all that was solved taken out, by more than its own uncertainty."""
    return abs(result.misfit_deg) > DISAGREE_SIGMAS * result.reading.sd_deg
