"""The command line: everything the screens compute, without a screen."""

from waxtwin.cli import desktop, figures, file_commands, out, session, talk_commands, team_commands  # noqa: F401 - each adds its commands
from waxtwin.cli.base import main

__all__ = ["main"]
