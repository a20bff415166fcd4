"""``python -m sequor.cli``."""

from . import command

command()
