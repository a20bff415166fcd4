"""A stage of the pipeline: which parts of a recipe it reads, what it stands on, and how it is worked out.

What depends on what follows from that alone (:mod:`fingerprint`): whether a result can be used again, a
tile's address, what a patch was made for and whether it is stale.
"""

from __future__ import annotations

from typing import Any, ClassVar, Generic, TypeVar

from sequor.recipe.model import Recipe

Result = TypeVar("Result")

UNSAID = object()
"""What a result comes down to that says nothing: whoever stands on its stage is as if that were not there."""


class Stage(Generic[Result]):
    """One stage.

    ``reads``: fields of the recipe by their paths, ``*`` for each of a list; a part means all its fields.
    ``after``: the stages whose results it is given. ``version`` is raised when it gives something else from
    the same. ``kept``: how many results at most, where they are large; None: as many as of every stage.
    """

    reads: ClassVar[tuple[str, ...]] = ()
    after: ClassVar[tuple[type[Stage[Any]], ...]] = ()
    version: ClassVar[int] = 1
    kept: ClassVar[int | None] = None

    def ignores(self, recipe: Recipe) -> tuple[str, ...]:
        """What of its reads makes no difference under this recipe."""
        return ()

    def run(self, recipe: Recipe, *upstream: Any) -> Result:
        """The result for a recipe, given those of ``after``. Raises RecipeError."""
        raise NotImplementedError

    def settles(self, result: Any) -> Any:
        """The numbers that a result comes down to, for who stands on it: however they were come by, nothing
        else of it is looked at. None: it is as good as all that it was made from. ``UNSAID``: it says
        nothing."""
        return None
