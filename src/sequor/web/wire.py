"""What every message has in common."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, StringConstraints

Rect = tuple[float, float, float, float]


class Wire(BaseModel):
    """A message: nothing in it that is not declared; an object with the same attributes can be made one."""

    model_config = ConfigDict(extra="forbid", from_attributes=True)


Name = Annotated[str, StringConstraints(pattern=r"^[^\x00-\x1f\x7f]*[^\s\x00-\x1f\x7f][^\x00-\x1f\x7f]*$")]
"""Words in one line that are not all blank."""
