"""The command line: the same code as the web application, without server and database.

Each command loads what it needs: reading a recipe must not wait for what only a picture needs. A bad recipe
gets its error on its line, the others go on, and the exit status is 2 at the end.
"""

from .line import command, main, parser

__all__ = ["command", "main", "parser"]
