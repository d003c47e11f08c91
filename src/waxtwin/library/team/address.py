"""Where a team's database is. No password is ever part of it: those live in the usual places or in the key ring."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import dataclass
from urllib.parse import parse_qs, unquote, urlsplit

from sqlalchemy import URL

from waxtwin.library.faults import LibraryError

SCHEMA = "waxtwin"
_HERE = ("", "localhost", "127.0.0.1", "::1")
_TLS = ("require", "verify-ca", "verify-full")
_ASKED = ("sslmode", "sslrootcert", "service", "passfile")
_KEY_RING = "Wax Twin"
_known: dict[str, str | None] = {}  # what the key ring said, by address


@dataclass(frozen=True)
class Address:
    """A database on a server: `user` empty for what the environment says, `options` of its URL that are let through."""

    host: str
    database: str
    user: str = ""
    port: int | None = None
    options: tuple[tuple[str, str], ...] = ()

    @classmethod
    def of(cls, text: str) -> Address:
        """Read `postgresql://[USER@]HOST[:PORT]/DATABASE`. Raises LibraryError, which repeats nothing secret."""
        try:
            said = urlsplit(text.strip())
            port = said.port
        except ValueError:
            raise LibraryError("a team's address reads postgresql://HOST/DATABASE; this one cannot be read") from None
        if said.scheme not in ("postgresql", "postgres"):
            raise LibraryError("a team's address begins with postgresql://, as in postgresql://HOST/DATABASE")
        if said.password:
            raise LibraryError(
                "the address holds a password; leave it out, and keep it in PostgreSQL's password file or this "
                "desktop's key ring"
            )
        options = {name: values[-1] for name, values in parse_qs(said.query).items()}
        if unknown := sorted(set(options) - {*_ASKED}):
            raise LibraryError(f"a team's address knows {', '.join(_ASKED)}, not “{unknown[0][:40]}”")
        database = unquote(said.path.strip("/"))
        if not database and "service" not in options:
            raise LibraryError("a team's address names a database, as in postgresql://HOST/DATABASE")
        host = unquote(said.hostname or "")
        return cls(host, database, unquote(said.username or ""), port, tuple(sorted(options.items())))

    @property
    def is_here(self) -> bool:
        """Whether the server is this machine."""
        return self.host.casefold() in _HERE

    def __str__(self) -> str:
        """As it may be shown and kept."""
        who = f"{self.user}@" if self.user else ""
        port = f":{self.port}" if self.port else ""
        query = "&".join(f"{name}={value}" for name, value in self.options)
        return f"postgresql://{who}{self.host}{port}/{self.database}" + (f"?{query}" if query else "")

    @property
    def parameters(self) -> dict[str, str | int]:
        """What a connection is asked for: TLS unless the server is this machine, and no long wait for an answer."""
        asked = dict(self.options)
        if not self.is_here and asked.get("sslmode") not in _TLS:
            asked["sslmode"] = "require"
        said: dict[str, str | int] = {
            **asked, "connect_timeout": 4, "application_name": "Wax Twin", "options": f"-csearch_path={SCHEMA}",
            "keepalives_idle": 2, "keepalives_interval": 1, "keepalives_count": 2, "tcp_user_timeout": 4000,
        }  # fmt: skip
        for name, value in (("host", self.host), ("dbname", self.database), ("user", self.user), ("port", self.port)):
            if value:
                said[name] = value
        if password := self._password():
            said["password"] = password
        return said

    @property
    def url(self) -> URL:
        """For SQLAlchemy, which hands `parameters` on."""
        return URL.create("postgresql+psycopg")

    def _password(self) -> str | None:
        """The password that this desktop's key ring holds, where there is one; asked once, for it may ask somebody."""
        name = str(self)
        if name not in _known:
            _known[name] = None
            with suppress(Exception):  # no key ring, a locked one, one that needs a desktop: the usual places are left
                import keyring

                _known[name] = keyring.get_password(_KEY_RING, name)
        return _known[name]

    def keep_password(self, password: str) -> None:
        """Put a password into this desktop's key ring. Raises LibraryError."""
        try:
            import keyring

            keyring.set_password(_KEY_RING, str(self), password)
            _known[str(self)] = password
        except Exception:  # noqa: BLE001 - key rings fail in ways of their own
            raise LibraryError(
                "this desktop has no key ring that could hold the password; put it into PostgreSQL's password file "
                "(~/.pgpass) instead"
            ) from None
