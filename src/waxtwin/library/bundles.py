"""A bundle: one zip with open formats inside, to hand a pair or an athlete to another analyst.

`manifest.json` names every file with its length and SHA-256. What comes in is trusted in nothing: names, lengths and
sums are checked before anything is unpacked, and a fault on the way leaves the library as it was.
"""

from __future__ import annotations

import hashlib
import json
import lzma
import shutil
import stat
import tempfile
import zipfile
import zlib
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from pathlib import Path, PurePosixPath
from typing import Any, Literal

from pydantic import BaseModel, Field, ValidationError

from waxtwin import __version__
from waxtwin.core.errors import WaxTwinError, plain
from waxtwin.core.steps import Steps, part
from waxtwin.formats.files import FormatError
from waxtwin.formats.person import PERSON, write_person
from waxtwin.formats.place import file_name
from waxtwin.library.athletes import person_of, take_person
from waxtwin.library.faults import LibraryError
from waxtwin.library.importing import Brought, bring, bring_one
from waxtwin.library.pairs import change_pair, keep_state, open_pair
from waxtwin.library.privacy import write_throw
from waxtwin.library.records import Athlete, DeliveryRow, PairRow
from waxtwin.library.store import Library
from waxtwin.library.talks import hand_out, take_talk

SUFFIX = ".waxtwin"
MANIFEST = "manifest.json"
VERSION = 1
MOST_FILES, MOST_BYTES = 5_000, 16 * 1024**3
_MOST_MANIFEST = 4 * 1024**2
_BLOCK = 1024**2
_TALKS = "talks"
_SMALL, _DENSEST = 4 * 1024**2, 200  # bytes, times: beyond, a file is made to fill a disk


class _File(BaseModel):
    bytes: int = Field(ge=0, le=MOST_BYTES)
    sha256: str = Field(pattern="^[0-9a-f]{64}$")


class _Throw(BaseModel):
    file: str
    origin_hash: str | None = None


class _Pair(BaseModel):
    athlete: int
    twin: int
    others: list[int] = Field(default_factory=list)
    name: str = ""
    kind: Literal["twin", "past", "peers"] = "twin"
    why: str = ""
    notes: list[dict[str, Any]] = Field(default_factory=list)
    state: dict[str, Any] = Field(default_factory=dict)
    ties: list[dict[str, Any]] = Field(default_factory=list)
    talks: list[str] = Field(default_factory=list, max_length=200)


class Manifest(BaseModel):
    """What a bundle says about itself: its files, its throws in order, and the pair that refers to them by number."""

    format: Literal["waxtwin-bundle"]
    version: int
    made: str = ""
    program: str = ""
    files: dict[str, _File] = Field(max_length=MOST_FILES)
    people: list[str] = Field(default_factory=list)
    throws: list[_Throw] = Field(default_factory=list)
    pair: _Pair | None = None


@dataclass(frozen=True)
class Opened:
    """What a bundle brought: each throw, and the two keys of its pair if it holds one."""

    throws: tuple[Brought, ...]
    pair: tuple[int, int] | None


# writing --------------------------------------------------------------------------------------------------------------
def bundle_athlete(library: Library, athlete_id: int, path: Path) -> Steps[None]:
    """Write a bundle of everything kept about an athlete; yields shares done. Raises WaxTwinError."""
    with library.reading() as session:
        row = session.get(Athlete, athlete_id)
        if row is None:
            raise LibraryError("this athlete is not in the library any more")
        keys = [throw.id for throw in row.deliveries]
    yield from _write(library, path, keys, None)


def bundle_pair(library: Library, pair_id: int, path: Path) -> Steps[None]:
    """Write a bundle of a kept pair: its throws with their athletes, why, notes, and how it is shown."""
    with library.reading() as session:
        row = session.get(PairRow, pair_id)
        if row is None:
            raise LibraryError("this pair is not kept any more")
        keys = list(dict.fromkeys([row.athlete_throw, row.twin_throw, *(k for k in row.others if isinstance(k, int))]))
        others = [keys.index(key) for key in row.others if key in keys]
        pair = _Pair(athlete=keys.index(row.athlete_throw), twin=keys.index(row.twin_throw), others=others,
                     name=row.name, kind=row.kind, why=row.why, notes=row.notes, state=row.state, ties=row.ties)  # type: ignore[arg-type]  # fmt: skip
    yield from _write(library, path, keys, pair)


def _write(library: Library, path: Path, keys: list[int], pair: _Pair | None) -> Steps[None]:
    beside = path.with_name(f".{path.name[:200]}.part")
    with tempfile.TemporaryDirectory(prefix="waxtwin-") as made:
        try:
            place = Path(made)
            throws: list[_Throw] = []
            people: list[str] = []
            yield from part(_gather(library, place, keys, throws, people), 0.0, 0.5)
            if pair is not None:
                talks = hand_out(library, (keys[pair.athlete], keys[pair.twin]), place / _TALKS)
                pair.talks = [talk.relative_to(place).as_posix() for talk in talks]
            yield from part(_zip(place, beside, throws, people, pair), 0.5, 1.0)
            beside.replace(path)
        except OSError as fault:
            raise FormatError(path, f"it cannot be written ({fault.strerror or 'output error'})") from None
        finally:
            with suppress(OSError):
                beside.unlink(missing_ok=True)


def _gather(library: Library, place: Path, keys: list[int], throws: list[_Throw], people: list[str]) -> Steps[None]:
    """Write every throw, and its athlete once, below a folder."""
    folders: dict[int, str] = {}
    with library.reading() as session:
        for n, key in enumerate(keys):
            yield n / max(len(keys), 1)
            row = session.get(DeliveryRow, key)
            if row is None:
                continue
            folder = folders.get(row.athlete_id)
            if folder is None:
                folder = folders[row.athlete_id] = f"{len(folders) + 1:02d}-{file_name(row.athlete.name)}"
                (place / folder).mkdir()
                people.append(f"{folder}/{PERSON.removeprefix('.')}")
                write_person(person_of(row.athlete), place / people[-1])
            name = write_throw(library, session, row, place / folder)
            if name is not None:
                throws.append(_Throw(file=f"{folder}/{name}", origin_hash=row.origin_hash))


def _zip(place: Path, target: Path, throws: list[_Throw], people: list[str], pair: _Pair | None) -> Steps[None]:
    files = sorted(file for file in place.rglob("*") if file.is_file())
    listed = {}
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as out:
        for n, file in enumerate(files):
            yield n / len(files)
            name = file.relative_to(place).as_posix()
            with file.open("rb") as stream:
                digest = hashlib.file_digest(stream, "sha256").hexdigest()
            listed[name] = _File(bytes=file.stat().st_size, sha256=digest)
            out.write(file, name)
        manifest = Manifest(format="waxtwin-bundle", version=VERSION, made=datetime.now(UTC).isoformat(),
                            program=__version__, files=listed, people=people, throws=throws, pair=pair)  # fmt: skip
        out.writestr(MANIFEST, json.dumps(manifest.model_dump(mode="json"), indent=1, ensure_ascii=False))


# reading --------------------------------------------------------------------------------------------------------------
def open_bundle(library: Library, path: Path) -> Steps[Opened]:
    """Check a bundle, unpack it beside the library and take in what it holds.

    A throw that the library knows already is not taken twice. Raises WaxTwinError; the library is then as it was.
    """
    with tempfile.TemporaryDirectory(prefix=".bundle-", dir=library.folder) as made:
        place = Path(made)
        try:
            with zipfile.ZipFile(path) as packed:
                manifest = _checked(path, packed)
                yield from part(_unpack(path, packed, manifest, place), 0.0, 0.5)
        except zipfile.BadZipFile:
            raise FormatError(path, "it is not a bundle, or it is damaged") from None
        except FileNotFoundError:
            raise FormatError(path, "there is no such file") from None
        except (OSError, RuntimeError, NotImplementedError, EOFError, zlib.error, lzma.LZMAError) as fault:
            said = getattr(fault, "strerror", None) or "it is damaged, or packed in a way that is not used here"
            raise FormatError(path, f"it cannot be unpacked ({said})") from None
        return (yield from part(_take_in(library, path, manifest, place), 0.5, 1.0))


def take(library: Library, path: Path, *, link: bool = False) -> Steps[list[Brought]]:
    """Take in a file, a folder or a bundle: what came of each throw. Raises WaxTwinError."""
    if path.suffix != SUFFIX:
        return (yield from bring(library, path, link=link))
    opened = yield from open_bundle(library, path)
    return [replace(one, file=path, pair=opened.pair) for one in opened.throws]


def _checked(path: Path, packed: zipfile.ZipFile) -> Manifest:
    """The manifest, once everything that can be said before unpacking is in order."""
    entries = packed.infolist()
    if len(entries) > MOST_FILES + 1:
        raise FormatError(path, f"it holds more than {MOST_FILES} files")
    by_name = {entry.filename: entry for entry in entries}
    if len(by_name) < len(entries):
        raise FormatError(path, "it holds two files of one name")
    head = by_name.pop(MANIFEST, None)
    if head is None or head.file_size > _MOST_MANIFEST:
        raise FormatError(path, "it has no manifest of ours: it is not a bundle")
    try:
        document = json.loads(packed.read(head))
        if isinstance(document, dict) and isinstance(document.get("version"), int) and document["version"] > VERSION:
            raise FormatError(path, "it was made by a newer Wax Twin; open it with that version")
        manifest = Manifest.model_validate(document)
    except FormatError:
        raise
    except (ValidationError, ValueError, RecursionError):
        raise FormatError(path, "its manifest cannot be read") from None
    if set(by_name) != set(manifest.files):
        raise FormatError(path, "its files are not those that its manifest names")
    for name, entry in by_name.items():
        _check_entry(path, name, entry, manifest.files[name])
    if sum(file.bytes for file in manifest.files.values()) > min(MOST_BYTES, shutil.disk_usage(path.parent).free * 100):
        raise FormatError(path, "it is larger than what is unpacked here")
    return manifest


def _check_entry(path: Path, name: str, entry: zipfile.ZipInfo, said: _File) -> None:
    parts = PurePosixPath(name).parts
    harmless = parts and not name.startswith("/") and ".." not in parts and "\\" not in name and ":" not in parts[0]
    if not harmless or "\0" in name or len(name) > 400 or entry.is_dir():
        raise FormatError(path, f"it holds a file of a name that is not allowed (“{name[:60]}”)")
    if stat.S_ISLNK(entry.external_attr >> 16):
        raise FormatError(path, f"it holds a link (“{name[:60]}”)")
    if entry.file_size > _SMALL and entry.file_size > _DENSEST * max(entry.compress_size, 1):
        raise FormatError(path, f"{plain(name)[:60]} is packed denser than any film or track can be")
    if entry.file_size != said.bytes:
        raise FormatError(path, f"{name[:60]} is not as long as the manifest says")


def _unpack(path: Path, packed: zipfile.ZipFile, manifest: Manifest, place: Path) -> Steps[None]:
    """Write every file below a folder, its length and sum checked as it comes."""
    needed = sum(file.bytes for file in manifest.files.values())
    if needed > shutil.disk_usage(place).free:
        raise FormatError(path, "there is no room on the disk to unpack it")
    done = 0
    for name, said in manifest.files.items():
        target = place.joinpath(*PurePosixPath(name).parts)
        target.parent.mkdir(parents=True, exist_ok=True)
        digest, length = hashlib.sha256(), 0
        with packed.open(name) as source, target.open("xb") as out:
            while block := source.read(_BLOCK):
                length += len(block)
                if length > said.bytes:
                    raise FormatError(path, f"{name[:60]} is longer than the manifest says")
                digest.update(block)
                out.write(block)
        if length != said.bytes or digest.hexdigest() != said.sha256:
            raise FormatError(path, f"{name[:60]} is not what was packed: its sum differs")
        done += length
        yield done / max(needed, 1)


def _take_in(library: Library, path: Path, manifest: Manifest, place: Path) -> Steps[Opened]:
    brought: list[Brought] = []
    try:
        with library.all_or_nothing():
            for n, throw in enumerate(manifest.throws):
                yield n / max(len(manifest.throws), 1)
                if throw.file not in manifest.files:
                    raise FormatError(path, f"its manifest names a throw that it does not hold (“{throw.file[:60]}”)")
                found = bring_one(library, place / throw.file, digest=throw.origin_hash)
                brought.append(found)
            for name in manifest.people:
                if name in manifest.files:
                    take_person(library, place / name)
            pair = None
            if manifest.pair is not None:
                pair = _take_pair(library, path, manifest.pair, brought)
                for name in (one for one in manifest.pair.talks if one in manifest.files):
                    take_talk(library, pair, place / name)
    except WaxTwinError as fault:
        if str(fault).startswith(path.name):
            raise
        raise FormatError(path, str(fault)) from None
    return Opened(tuple(brought), pair)


def _take_pair(library: Library, path: Path, said: _Pair, brought: list[Brought]) -> tuple[int, int]:
    """Keep the pair; one that is kept here already keeps its own name, reason and notes beside the new ones."""
    keys = [one.key for one in brought if one.key is not None]
    wanted = [said.athlete, said.twin, *said.others]
    if any(not 0 <= n < len(keys) for n in wanted) or said.athlete == said.twin:
        raise FormatError(path, "its pair speaks of throws that it does not hold")
    athlete, twin = keys[said.athlete], keys[said.twin]
    kept = open_pair(library, athlete, twin)
    with library.reading() as session:
        row = session.get_one(PairRow, kept.id)
        notes, ties, fresh = list(row.notes), list(row.ties), not row.state
    values: Mapping[str, Any] = {
        "name": kept.name or said.name, "why": kept.why or said.why, "kind": said.kind,
        "others": list(kept.others) or [keys[n] for n in said.others],
        "notes": [*notes, *(note for note in said.notes if note not in notes)],
        "ties": [*ties, *(tie for tie in said.ties if tie not in ties)],
    }  # fmt: skip
    change_pair(library, kept.id, "Import a pair", **values)
    if fresh:
        keep_state(library, kept.id, said.state)
    return athlete, twin
