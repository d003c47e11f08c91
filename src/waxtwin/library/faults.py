"""What can go wrong with a library, each as one plain sentence. Loads nothing else."""

from __future__ import annotations

from waxtwin.core.errors import WaxTwinError


class LibraryError(WaxTwinError):
    """A library cannot be opened or changed; the sentence says what is wrong and what was kept."""


class FolderHeldError(LibraryError):
    """Somebody else holds the folder of a library, for now."""


class ServerAwayError(LibraryError):
    """The server of a team's library does not answer; nothing was changed, and the same can be tried again."""


class StaleChangeError(LibraryError):
    """Somebody else changed the same meanwhile, so that what was about to be done was not."""
