"""What a server says in its own words, as one plain sentence that never holds a password."""

from __future__ import annotations

import psycopg
from sqlalchemy.exc import DBAPIError

from waxtwin.library.faults import LibraryError, ServerAwayError, StaleChangeError

_BY_STATE = {
    "28P01": "{where}: the password is wrong, or none is known; it belongs into ~/.pgpass or this desktop's key ring",
    "28000": "{where}: the server lets nobody of this name in from this machine",
    "3D000": "{where}: the server has no database of this name",
    "42501": "{where}: you have no right to do this; ask whoever set the team's library up for the role",
    "42P01": "{where}: this database holds no library of Wax Twin; “waxtwin team create” makes one",
    "3F000": "{where}: this database holds no library of Wax Twin; “waxtwin team create” makes one",
    "25006": "{where}: the server takes no changes now (it is read-only)",
    "53100": "{where}: the server's disk is full; nothing was changed",
    "53300": "{where}: the server has no room for another connection; try again in a minute",
}  # fmt: skip
_BY_WORDS = (
    ("certificate", "tls"), ('role "', "28000"), ("password authentication failed", "28P01"),
    ("no password supplied", "28P01"), ("pg_hba.conf", "28000"), ('" does not exist', "3D000"), ("too many", "53300"),
    ("remaining connection slots", "53300"), ("SSL", "tls"),
)  # fmt: skip
_STALE = {
    "23505": "Somebody kept the same at the same moment; your change was not kept: look again.",
    "23503": "Somebody removed what this belongs to; your change was not kept: look again.",
    "40P01": "Somebody changed this at the same moment; your change was not kept: look again.",
    "40001": "Somebody changed this at the same moment; your change was not kept: look again.",
}
_AWAY = ("57P01", "57P02", "57P03", "08000", "08001", "08003", "08004", "08006")


def fault_of(fault: BaseException, where: str, otherwise: str) -> LibraryError:
    """One sentence for a fault of the server's; `otherwise` begins one that is not known."""
    origin = fault.orig if isinstance(fault, DBAPIError) else fault
    state = getattr(origin, "sqlstate", None)
    words = str(origin)
    if state in _STALE:
        return StaleChangeError(_STALE[state])
    if state is None and isinstance(origin, psycopg.OperationalError):
        state = next((known for part, known in _BY_WORDS if part in words), None)
    if state == "tls":
        return LibraryError(f"{where}: the server offers no TLS that can be trusted, and nothing is sent without")
    if state in _BY_STATE:
        return LibraryError(_BY_STATE[state].format(where=where))
    if isinstance(origin, psycopg.OperationalError) and (state is None or state in _AWAY):
        return ServerAwayError(f"{where}: the server does not answer")
    if isinstance(origin, psycopg.InterfaceError):
        return ServerAwayError(f"{where}: the connection to the server was lost")
    first = words.strip().splitlines()[0] if words.strip() else type(origin).__name__
    return LibraryError(f"{otherwise} ({first}).")
