"""The kinds of long work on a library. Each can be done twice without harm."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from hashlib import sha256

from sqlalchemy import select

from waxtwin.core.steps import Steps
from waxtwin.library.faults import LibraryError
from waxtwin.library.jobs.standing import Asked
from waxtwin.library.records import DeliveryRow
from waxtwin.library.store import Library


@dataclass(frozen=True)
class Kind:
    """One kind: `title` as people read it, `run` does it and returns what there is to say, `follows` are the kinds that
    a throw asks for next.
    """

    id: str
    title: str
    run: Callable[[Library, Asked], Steps[list[str]]]
    follows: tuple[str, ...] = ()


def _landmarks(library: Library, asked: Asked) -> Steps[list[str]]:
    from waxtwin.library.live_throws import prepare_throw

    model, gentle = asked.get("model", "heavy"), asked.get("gentle", True)
    return (yield from prepare_throw(library, asked["throw"], model, gentle=gentle))


def _profile(library: Library, asked: Asked) -> Steps[list[str]]:
    from waxtwin.library.profiles import fill_one, missing

    yield 0.1
    for key in missing(library, asked["throw"]):
        fill_one(library, key)
    return []


def _figures(library: Library, asked: Asked) -> Steps[list[str]]:
    from waxtwin.library.log import figures_of_throw

    yield 0.1
    figures_of_throw(library, asked["throw"], asked.get("landing", "touch"))
    return []


KINDS = {
    kind.id: kind
    for kind in (
        Kind("landmarks", "Find landmarks", _landmarks, ("profile", "figures")),
        Kind("profile", "Get ready for finding twins", _profile),
        Kind("figures", "Work out figures", _figures),
    )
}


def kind_of(name: str) -> Kind:
    """A kind by its id. Raises LibraryError for what a newer program asks for."""
    if name not in KINDS:
        raise LibraryError(f"this Wax Twin does not know the work “{name[:40]}”; a newer one asked for it")
    return KINDS[name]


def identity(library: Library, kind: Kind, asked: Asked) -> str:
    """The same for the same work: kind, what is asked, and the content that it works on."""
    with library.reading() as session:
        keys = [asked["throw"]] if "throw" in asked else list(asked["throws"])
        content = []
        for row in session.scalars(select(DeliveryRow).where(DeliveryRow.id.in_(keys)).order_by(DeliveryRow.id)):
            views = [(view.clip.sha256, view.first_s, view.last_s) for view in row.views]
            content.append((row.id, row.track, views))
    return sha256(repr((kind.id, sorted(asked.items()), content)).encode()).hexdigest()
