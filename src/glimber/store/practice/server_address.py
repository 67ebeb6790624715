"""The address of a practice log on a database server: shown and kept without its password, and reached over TLS."""

from __future__ import annotations

import ipaddress
import re
from contextlib import suppress
from typing import TYPE_CHECKING, Final

from glimber.store.faults import StoreError
from glimber.store.settings import load_settings, remember

if TYPE_CHECKING:
    import sqlalchemy as sa

KEYRING_SERVICE: Final = "glimber practice log"
WEAK_TLS: Final = frozenset({"disable", "allow", "prefer"})
"""Modes of TLS under which an address may be reached in the clear. Source: the libpq manual, "SSL Mode Descriptions"."""
_SECRETS: Final = ("password", "sslpassword")
_PASSWORD: Final = re.compile(r"(?P<user>://[^/\s:@]+):[^/\s@]+@|(?P<query>[?&](?:password|sslpassword)=)[^&\s\"']+")


def server_url(setting: str) -> sa.URL:
    """Return a server's address taken apart. Raises StoreError; the message is without the address, for its password."""
    import sqlalchemy as sa
    from sqlalchemy.exc import ArgumentError

    try:
        url = sa.make_url(setting)
    except (ArgumentError, ValueError) as error:
        raise StoreError("log is not a server's address; expected postgresql+psycopg://host/database") from error
    if not url.drivername.startswith("postgresql"):
        raise StoreError(
            f"log names a database of the kind {url.drivername}; expected postgresql+psycopg://host/database"
        )
    return url


def shown_address(url: sa.URL) -> str:
    """Return an address without a password, in whichever part of it that stands."""
    return url._replace(password=None).difference_update_query(_SECRETS).render_as_string(hide_password=True)


def password_in(url: sa.URL) -> str | None:
    """Return the password that an address has in it, if any."""
    if url.password:
        return str(url.password)
    given = url.query.get("password")
    return given if isinstance(given, str) else given[0] if given else None


def without_password(text: str) -> str:
    """Return a text with the password of every server's address in it taken out."""
    return _PASSWORD.sub(lambda found: f"{found['user']}@" if found["user"] else found["query"][:1], text)


def is_on_this_computer(url: sa.URL) -> bool:
    """Return True for a socket or a loopback address."""
    hosts = [url.host, *_listed(url.query.get("host")), *_listed(url.query.get("hostaddr"))]
    return all(not host or host.startswith("/") or host == "localhost" or _is_loopback(host) for host in hosts)


def _listed(value: str | tuple[str, ...] | None) -> list[str]:
    return [] if value is None else value.split(",") if isinstance(value, str) else list(value)


def _is_loopback(host: str) -> bool:
    with suppress(ValueError):
        return ipaddress.ip_address(host).is_loopback
    return False


def with_tls(url: sa.URL) -> sa.URL:
    """Return an address whose server must prove who it is, unless it is on this computer or the person agreed to less.

    Raises StoreError for an address that asks for less without that.
    """
    if is_on_this_computer(url) or shown_address(url) in load_settings().unencrypted.split():
        return url
    mode = url.query.get("sslmode")
    if mode in WEAK_TLS:
        raise StoreError(
            f"{shown_address(url)}: sslmode={mode} may send your practice in the clear; nothing was sent. Take it out of the "
            "address, or agree to it on this computer: glimber confirm-log FOLIO --without-tls"
        )
    if mode is not None:
        return url
    return url.update_query_dict({"sslmode": "verify-full", "sslrootcert": url.query.get("sslrootcert", "system")})


def agree_without_tls(setting: str) -> None:
    """Agree on this computer that a server is reached without TLS or without a proof of who it is."""
    shown = shown_address(server_url(setting))
    if shown not in load_settings().unencrypted.split():
        remember(unencrypted=" ".join([*load_settings().unencrypted.split(), shown]))


def with_kept_password(url: sa.URL) -> sa.URL:
    """Return an address with the password that the desktop's secret service has for it; libpq looks into ``~/.pgpass`` itself."""
    if password_in(url) is not None:
        return url
    with suppress(Exception):  # no secret service, a locked one, or no keyring installed: the server then asks for one
        import keyring

        password = keyring.get_password(KEYRING_SERVICE, shown_address(url))
        if password is not None:
            return url.set(password=password)
    return url


def keep_password(url: sa.URL) -> None:
    """Keep the password of an address in the desktop's secret service. Raises StoreError where there is none."""
    password = password_in(url)
    if password is None:
        return
    try:
        import keyring

        keyring.set_password(KEYRING_SERVICE, shown_address(url), password)
    except Exception as error:
        raise StoreError(
            "the password of the address could not be kept: there is no secret service here (pip install 'glimber[server]' "
            "has the client). Put it into ~/.pgpass and leave it out of the address"
        ) from error
