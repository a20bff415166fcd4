"""What is found in a package: a mode or a format is added by adding its file."""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules
from typing import Any, TypeVar

Base = TypeVar("Base")


def named(package: str, base: type[Base]) -> dict[Any, Base]:
    """One of each class that a package's modules derive from ``base`` and give a ``name``.

    >>> from sequor.core.references.base import ReferenceKind
    >>> sorted(named("sequor.core.references", ReferenceKind))[:3]
    ['level', 'plumb', 'receding']
    """
    found: dict[Any, Base] = {}
    for module in iter_modules(import_module(package).__path__, f"{package}."):
        for one in vars(import_module(module.name)).values():
            if isinstance(one, type) and issubclass(one, base) and "name" in vars(one):
                found[vars(one)["name"]] = one()
    return found
