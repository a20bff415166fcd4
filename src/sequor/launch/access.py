"""Who the program is for, and what signs their cookies."""

from __future__ import annotations

import os
from pathlib import Path

from sequor.operations.accounts import first_account
from sequor.store.database import Store
from sequor.store.files import kept_secret
from sequor.store.owners import NOBODY
from sequor.web.accounts.network import Access

from .processes import StartError

SECRET = "SEQUOR_SECRET"
SHORTEST_SECRET = 32


def access_of(store: Store, broker: str | None) -> Access:
    """Who the program is for: whoever sits at this computer, or, where ``broker`` counts who fails to sign
    in, people on a network. Raises StartError for a network while there are no accounts."""
    home = first_account(store)
    if broker is None:
        return Access(home)
    if home == NOBODY:
        raise StartError("there is no account yet that could sign in; add one with bin/start --add-user NAME")
    # Celery and the counting library write the address of a socket in two ways.
    return Access(home, _secret(store.folder), broker.replace("redis+socket:", "redis+unix:", 1))


def _secret(folder: Path) -> str:
    """What signs the cookies: kept, so that sessions outlive a restart; where several web servers share the
    work, the same one for all."""
    named = os.environ.get(SECRET)
    if named is not None:
        if len(named) < SHORTEST_SECRET:
            raise StartError(f"{SECRET} has {len(named)} characters; give it {SHORTEST_SECRET} or more")
        return named
    return kept_secret(folder / "secret")
