"""Taking what Sequor has found by itself: its lines become ordinary ones."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from sequor.actions.base import Action, Takes
from sequor.advice.made import Made
from sequor.recipe.evolve import evolve
from sequor.recipe.model import Recipe
from sequor.recipe.model.references import ReferencePart
from sequor.recipe.reopen import taking_out
from sequor.wording.found import EXTENT_NAMES, EXTENTS, Extent, counted


class TakeProposal(Action):
    """The lines of a proposal, those that were left out not among them, and how far the correction goes.
    Lines that are there already stay."""

    do: Literal["proposal"]
    extent: Extent
    lines: list[ReferencePart] = Field(min_length=1, max_length=100)

    def apply(self, recipe: Recipe, takes: Takes) -> Made:
        known = {one.id for one in recipe.references}
        added = []
        for line in self.lines:
            name, again = line.id, 1
            while name in known:
                again += 1
                name = f"{line.id} {again}"
            known.add(name)
            added.append(evolve(line, id=name))
        after = evolve(recipe, references=[*recipe.references, *added])
        words = f"Took the proposal: {EXTENT_NAMES[self.extent].lower()}, {counted(len(added))}"
        return Made(taking_out(after, *EXTENTS[self.extent]), words)
