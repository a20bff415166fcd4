"""Where the program answers."""

from __future__ import annotations

import ipaddress
from dataclasses import dataclass

from .processes import StartError


@dataclass(frozen=True)
class Door:
    """A port at an address; ``proxy``: the address of a reverse proxy whose headers are believed;
    ``network``: whether people sign in."""

    port: int
    address: str = "127.0.0.1"
    proxy: str | None = None
    network: bool = False

    @property
    def url(self) -> str:
        """What a browser opens."""
        return f"http://{f'[{self.address}]' if ':' in self.address else self.address}:{self.port}/"


def refuse_odd_address(address: str | None, option: str) -> None:
    """Raise StartError for what is no address of a network interface."""
    try:
        ipaddress.ip_address(address or "127.0.0.1")
    except ValueError:
        raise StartError(f"{address} is no address like 192.168.1.20; see {option}") from None
