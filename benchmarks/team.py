"""A team's library under load, on a server of its own: `python -m benchmarks.team [--short]`.

Prints: what ten people lose who change at once, how long a change takes, how long a list of 10,000 throws takes, what a
second worker brings, what kills cost, and from the measured unit costs where a large academy meets the limit.
"""

from __future__ import annotations

import json
import os
import random
import subprocess
import sys
import tempfile
import time
from collections.abc import Sequence
from contextlib import closing
from dataclasses import replace
from pathlib import Path

import numpy as np
from sqlalchemy import select, text

from benchmarks.team_server import TeamServer, is_installed
from waxtwin.core.steps import finish
from waxtwin.library.catalogue import entries
from waxtwin.library.faults import LibraryError, StaleChangeError
from waxtwin.library.importing import bring
from waxtwin.library.records import DeliveryRow
from waxtwin.library.store import Library
from waxtwin.library.team.address import Address
from waxtwin.library.team.database import TeamDatabase
from waxtwin.library.team.making import create
from waxtwin.library.team.work import TeamQueue, work
from waxtwin.library.throws import set_fields, set_tags

DEMO = Path(__file__).parent.parent / "src" / "waxtwin" / "assets" / "demo"
PEOPLE, RATE, SECONDS, MANY, KILLS, CLIPS = 10, 5.0, 120.0, 10_000, 100, 6


_LABELS = text("select label from change where person ~ '^p[0-9]$'")


# what the children do
def change_on(url: str, name: str, seconds: float, what: str) -> None:
    """Change throws drawn by chance, RATE times a second; every change that was kept is told, with its milliseconds."""
    address, draw = replace(Address.of(url), user=name), random.Random(name)
    with closing(Library(TeamDatabase(address))) as library:
        library.catch_up()
        keys = _keys(library)
        begin, n, at = time.monotonic(), 0, 0.0
        while at < seconds:
            n, at = n + 1, at + draw.expovariate(RATE)  # people do not change things in step
            time.sleep(max(0.0, begin + at - time.monotonic()))
            if n % round(RATE) == 0:  # as a window does that hears of others
                library.catch_up()
            stale = 0
            while True:
                began = time.perf_counter()
                try:
                    _change(library, draw.choice(keys), f"{name}-{os.getpid()}-{n}", what)
                    break
                except StaleChangeError:  # somebody was quicker: look again, then do it
                    stale += 1
                    library.catch_up()
            print(
                json.dumps([f"{name}-{os.getpid()}-{n}", round(1000 * (time.perf_counter() - began), 2), stale]),
                flush=True,
            )


def _change(library: Library, key: int, label: str, what: str) -> None:
    """A note, which others write over, too, or a tag, which stays."""
    if what == "notes":
        set_fields(library, key, label, notes=label)
    else:
        set_tags(library, [key], label, on=True)


def work_on(url: str, name: str, wait: str, core: str = "") -> None:
    """Take work until nothing waits, or until killed; on one core alone, as a small machine of its own would."""
    if core:
        os.sched_setaffinity(0, {int(core)})
    work(Address.of(url), None, name, wait=wait == "wait", patience=2.0)


def _child(what: str, *said: object) -> subprocess.Popen[str]:
    command = [sys.executable, "-m", "benchmarks.team", what, *map(str, said)]
    return subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True)


def _keys(library: Library) -> list[int]:
    with library.reading() as session:
        return list(session.scalars(select(DeliveryRow.id)))


# what is measured -----------------------------------------------------------------------------------------------------
class Hall:
    """A server with a library of the demo's throws on it."""

    def __init__(self) -> None:
        self.server, self.folder = TeamServer(), Path(tempfile.mkdtemp(prefix="waxtwin-team-"))
        self.address = Address.of(self.server.url(self.server.database()))
        create(self.address, self.folder / "clips")
        with closing(self.open()) as library:
            for name in ("wren-tollander", "ines-corvane", "juno-wexcombe", "pell-ardmoor"):
                finish(bring(library, DEMO / f"{name}.csv"))
        self.add_throws(100)
        for n in range(PEOPLE):
            self.server.sql(f"create role p{n} login in role waxtwin_analyst")

    def open(self) -> Library:
        return Library(TeamDatabase(self.address))

    def add_throws(self, count: int) -> None:
        """Further throws, called more-N, with the tracks of those that are there."""
        rest = "recorded, screening, notes, extra, origin, track, track_from, added, athlete_id, session_id"
        self.server.sql(
            f"insert into waxtwin.delivery (title, {rest}) select 'more-' || n, {rest}"
            f" from waxtwin.delivery, generate_series(1, {count // 4}) n where title not like 'more-%'",
            self.address.database,
        )

    def close(self) -> None:
        self.server.close()


def crowd(hall: Hall, seconds: float) -> list[float]:
    """Ten people at once: nothing lost, nothing doubled; the milliseconds of every change."""
    children = [_child("change", hall.address, f"p{n}", seconds, "notes") for n in range(PEOPLE)]
    told = [json.loads(line) for child in children for line in child.communicate()[0].splitlines()]
    with closing(hall.open()) as library, library.reading() as session:
        kept = list(session.scalars(_LABELS))
    promised = [one[0] for one in told]
    times = [one[1] for one in told]
    print(f"\n{PEOPLE} people, {RATE:.0f} changes a second each, {seconds:.0f} s: {len(told)} changes, "
          f"lost {len(set(promised) - set(kept))}, doubled {len(kept) - len(set(kept))}, "
          f"refused as stale and done after another look {sum(one[2] for one in told)}")  # fmt: skip
    print(f"a change: median {np.median(times):.1f} ms (budget 30), 95th percentile {np.percentile(times, 95):.1f} ms")
    return times


def long_list(hall: Hall) -> float:
    """Opening and listing MANY throws over the loopback, ms."""
    hall.add_throws(MANY)
    times = []
    for _ in range(5):
        with closing(hall.open()) as library:
            began = time.perf_counter()
            with library.reading() as session:
                count = len(entries(session))
            times.append(1000 * (time.perf_counter() - began))
    print(f"\nlist of {count} throws: {np.median(times):.0f} ms (budget 400)")
    hall.server.sql(f"delete from waxtwin.delivery where title like 'more-%' and id > {100 + 4}", hall.address.database)
    return float(np.median(times)) / count


def workers(hall: Hall, clips: int) -> float:
    """Landmarks of so many clips by one worker and by two: how many times quicker two are."""
    spent = []
    for count in (1, 2):
        with closing(hall.open()) as library:
            keys = [_clip(library, hall.folder, f"{count}-{n}") for n in range(clips)]
            with closing(TeamQueue(library)) as queue:
                for key in keys:
                    queue.ask("landmarks", {"throw": key, "model": "lite", "gentle": False})
                began = time.perf_counter()
                children = [_child("work", hall.address, f"w{n}", "once", n) for n in range(count)]
                for child in children:
                    child.wait()
                spent.append(time.perf_counter() - began)
                left = [one.says for one in queue.standings()]
        print(f"{clips} clips, {count} {'worker' if count == 1 else 'workers'}: {spent[-1]:.1f} s"
              + (f"; not done: {left}" if left else ""))  # fmt: skip
    print(f"two workers, a core each, do {spent[0] / spent[1]:.2f} times the clips of one (budget 1.8)")
    return spent[0] / clips


def _clip(library: Library, folder: Path, name: str) -> int:
    """A clip of its own content, trimmed to its middle."""
    import av

    from waxtwin.library.importing import bring_one

    path = folder / f"clip-{name}.mp4"
    with av.open(str(DEMO / "wren-tollander-side.mp4")) as source, av.open(str(path), "w") as target:
        stream = source.streams.video[0]
        out = target.add_stream_from_template(stream)
        target.metadata["title"] = name
        for packet in source.demux(stream):
            if packet.dts is not None:
                packet.stream = out
                target.mux(packet)
    key = bring_one(library, path).key
    assert key is not None
    with library.quietly() as session:
        session.execute(text("update view set first_s = 0.6, last_s = 1.6 where delivery_id = :key"), {"key": key})
    return key


def kills(hall: Hall, times: int) -> None:
    """People and workers killed at random under load: what was promised is there, and no work is half-done."""
    draw = random.Random(1)
    with closing(hall.open()) as library:
        keys = _keys(library)
        queue = TeamQueue(library)
        promised: set[str] = set()
        running = {name: _start(name, hall) for name in ("p0", "p1", "p2", "w0", "w1")}
        for n in range(times):
            queue.ask("profile", {"throw": draw.choice(keys), "round": n})
            time.sleep(draw.uniform(0.3, 3.0))
            name = draw.choice(sorted(running))
            running[name].kill()
            promised |= _promises(running[name])
            running[name] = _start(name, hall)
        for child in running.values():
            child.kill()
            promised |= _promises(child)
        began = time.monotonic()
        last = _child("work", hall.address, "last", "wait")
        while queue.standings() and time.monotonic() - began < 120:
            time.sleep(0.2)
        last.kill()
        with library.reading() as session:
            kept = list(session.scalars(text("select name from tag")))
            torn = session.scalar(
                text("select count(*) from change c where not exists (select 1 from json_array_elements(c.rows))")
            )
        left = queue.standings()
        queue.close()
    print(f"\n{times} kills of people and workers: {len(promised)} changes promised, lost {len(promised - set(kept))}, "
          f"doubled {len(kept) - len(set(kept))}, torn entries of the journal {torn}, work left undone {len(left)}; "
          f"the last of it taken up within {time.monotonic() - began:.0f} s")  # fmt: skip


def _start(name: str, hall: Hall) -> subprocess.Popen[str]:
    return (
        _child("change", hall.address, name, 10_000, "tags")
        if name[0] == "p"
        else _child("work", hall.address, name, "wait")
    )


def _promises(child: subprocess.Popen[str]) -> set[str]:
    said = child.communicate()[0].splitlines()
    return {json.loads(line)[0] for line in said if line.endswith("]")}


def paper(commit_ms: Sequence[float], per_throw_ms: float, clip_s: float, hall: Hall) -> None:
    """Where 50 analysts, 100 workers and a million throws meet the limit, from what was measured."""
    analysts, machines, throws = 50, 100, 1_000_000
    with closing(hall.open()) as library:
        with library.reading() as session:
            size = "select sum(pg_total_relation_size(oid)) from pg_class where relnamespace = 'waxtwin'::regnamespace"
            row = float(session.scalar(text(f"{size} and relkind = 'r'")) or 0)
            count = session.scalar(text("select count(*) from delivery")) or 1
        queue, began = TeamQueue(library), time.perf_counter()
        for n in range(200):
            queue.ask("profile", {"throw": 1, "round": f"paper {n}"})
        asked_ms = 5 * (time.perf_counter() - began)
        queue.close()
    held = [path.stat().st_size for path in (hall.folder / "clips" / "clips").iterdir()]
    turn_ms, jobs_s = float(np.median(commit_ms)), machines / clip_s * 3  # landmarks, likeness, figures
    print("\nOn paper, by the unit costs above:")
    lines = (
        ("what", "unit cost", "50 analysts, 100 workers, 1,000,000 throws", "limit"),
        ("---",) * 4,
        ("a change, one after the other", f"{turn_ms:.1f} ms", f"{analysts * 0.2:.0f} a second at one each 5 s",
         f"{1000 / turn_ms:.0f} a second"),
        ("listing a throw", f"{1000 * per_throw_ms:.0f} us", f"{per_throw_ms * throws / 1000:.0f} s for all",
         f"0.4 s at {400 / per_throw_ms:,.0f} throws"),
        ("a piece of work through the queue", f"{asked_ms:.1f} ms", f"{jobs_s:.0f} a second",
         f"{1000 / asked_ms:.0f} a second"),
        ("a clip on the share", f"{np.mean(held) / 1e6:.1f} MB here, 25 MB from a phone",
         f"{machines / clip_s * 25:.0f} MB a second read", "about 1,000 MB a second over 10 GbE"),
        ("rows, tracks, marks", f"{row / count / 1000:.0f} kB a throw", f"{row / count * throws / 1e9:.0f} GB",
         "the server's disk"),
    )  # fmt: skip
    for line in lines:
        print(f"| {' | '.join(line)} |")


def main() -> None:
    if not is_installed():
        sys.exit("PostgreSQL is not installed: nothing can be measured.")
    short = "--short" in sys.argv
    hall = Hall()
    try:
        commit_ms = crowd(hall, 10.0 if short else SECONDS)
        per_throw_ms = long_list(hall)
        clip_s = workers(hall, 2 if short else CLIPS)
        kills(hall, 10 if short else KILLS)
        paper(commit_ms, per_throw_ms, clip_s, hall)
    finally:
        hall.close()


if __name__ == "__main__":
    children = {"change": lambda url, name, seconds, what: change_on(url, name, float(seconds), what), "work": work_on}
    if len(sys.argv) > 2 and sys.argv[1] in children:
        try:
            children[sys.argv[1]](*sys.argv[2:])
        except (LibraryError, KeyboardInterrupt):
            sys.exit(1)
    else:
        main()
