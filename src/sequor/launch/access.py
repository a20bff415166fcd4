"""Who the program is for, and what signs their cookies."""

from __future__ import annotations

import os
from pathlib import Path

from sequor.operations.accounts import first_account
from sequor.store.database import Store
from sequor.store.files import kept_secret
from sequor.store.owners import NOBODY
from sequor.web.accounts.network import Access

from .outside import Shared
from .processes import StartError

SECRET = "SEQUOR_SECRET"
SHORTEST_SECRET = 32


def access_of(store: Store, folder: Path, network: bool, where: Shared | None) -> Access:
    """Who the program is for. Raises StartError for a network while there are no accounts."""
    home = first_account(store)
    if not network:
        return Access(home)
    if home == NOBODY:
        raise StartError("there is no account yet that could sign in; add one with bin/start --add-user NAME")
    return Access(home, _secret(folder), "memory://" if where is None else where.broker)


def _secret(folder: Path) -> str:
    """What signs the cookies: kept, so that sessions outlive a restart; where several web servers share the
    work, the same one for all."""
    named = os.environ.get(SECRET)
    if named is not None:
        if len(named) < SHORTEST_SECRET:
            raise StartError(f"{SECRET} has {len(named)} characters; give it {SHORTEST_SECRET} or more")
        return named
    return kept_secret(folder / "secret")
