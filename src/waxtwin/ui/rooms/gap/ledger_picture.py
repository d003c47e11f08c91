"""What both pictures of the chain ledger share: which account they draw, and how a link is coloured and written."""

from __future__ import annotations

from PySide6.QtGui import QColor
from PySide6.QtWidgets import QWidget

from waxtwin.core.ledger import Ledger, Link
from waxtwin.core.units import converted
from waxtwin.ui.model.desk import Desk
from waxtwin.ui.shared.theme import colour


class LedgerPicture(QWidget):
    """Draws an account once it is there."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.ledger: Ledger | None = None

    def show_account(self, account: Ledger | None) -> None:
        """Draw this account."""
        self.ledger = account
        self.setAccessibleDescription("" if account is None else account.sentence)
        self.update()


def link_tone(link: Link, *, broken: bool, loses: bool) -> QColor:
    """Thread where the chain breaks; else whose speed it is, pale where it cannot be told."""
    return colour("thread") if broken else colour("athlete" if loses else "twin", 90 if link.is_level else 210)


def signed(speed: float, imperial: bool) -> str:
    """A speed in m/s, with its sign and without its unit."""
    number, _, digits = converted(speed, "m/s", imperial)
    return f"{number:+.{digits}f}".replace("-", "−")
