"""The kinds of long work on a library. Each can be done twice without harm."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from hashlib import sha256

from sqlalchemy import select

from waxtwin.core.steps import Steps
from waxtwin.library.faults import LibraryError
from waxtwin.library.jobs.standing import Asked
from waxtwin.library.layout import BLENDED
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
    from waxtwin.library.preparing import preparation_of

    gone = next((view.name for view in preparation_of(library, asked["throw"]).views if not view.path.is_file()), None)
    if gone is not None:
        raise LibraryError(f"{gone}: this clip is not in its place any more, so nothing can be found in it")
    return (
        yield from prepare_throw(library, asked["throw"], asked.get("model", "heavy"), gentle=asked.get("gentle", True))
    )


def _profile(library: Library, asked: Asked) -> Steps[list[str]]:
    from waxtwin.library.profiles import fill_one, missing

    yield 0.1
    if asked["throw"] in missing(library):
        fill_one(library, asked["throw"])
    return []


def _figures(library: Library, asked: Asked) -> Steps[list[str]]:
    from waxtwin.library.log import figures_of_throw

    yield 0.1
    figures_of_throw(library, asked["throw"], asked.get("landing", "touch"))
    return []


def _blend(library: Library, asked: Asked) -> Steps[list[str]]:
    from waxtwin.library.blending import keep_blend

    with library.reading() as session:
        for made_of, title in session.execute(select(DeliveryRow.extra, DeliveryRow.title)):
            if made_of.get(BLENDED) == list(asked["throws"]) and title == asked["name"]:
                return []
    yield from keep_blend(library, asked["throws"], asked["name"])
    return []


KINDS = {
    kind.id: kind
    for kind in (
        Kind("landmarks", "Find landmarks", _landmarks, ("profile", "figures")),
        Kind("profile", "Get ready for finding twins", _profile),
        Kind("figures", "Work out figures", _figures),
        Kind("blend", "Blend", _blend),
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
