"""What is told to the user, and of which kind it is. Knows no Qt."""

from __future__ import annotations


class Fault(str):
    """Something went wrong: what, and what was kept. A plain str is a fact. `cause` is the exception that said so."""

    cause: Exception | None

    def __new__(cls, said: object) -> Fault:
        made = super().__new__(cls, said)
        made.cause = said if isinstance(said, Exception) else None
        return made


class Success(str):
    """Something that was asked for is done."""
