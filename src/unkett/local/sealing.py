"""Backups sealed with a key file, in the open age format: who finds a backup without its key reads nothing of it."""

from __future__ import annotations

import contextlib
import os
import tempfile
from collections.abc import Iterator
from pathlib import Path

import pyrage
from pyrage import x25519

from unkett.local.state import SetupError

BEGINS = b"age-encryption.org/"
KEY_LINE = "AGE-SECRET-KEY-"


def make_key(path: Path) -> None:
    """Write a new key, for its owner's eyes only. Raises SetupError where it cannot be written or is there already."""
    identity = x25519.Identity.generate()
    text = f"# opens the backups of this Unkett; public key {identity.to_public()}\n{identity}\n"
    try:
        with os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as file:
            file.write(text)
            os.fsync(file.fileno())
    except OSError as error:
        raise SetupError(f"{path}: the key cannot be written ({error.strerror})") from error


def _identity(path: Path) -> x25519.Identity:
    """Read a key file. Raises SetupError for one that is none."""
    try:
        lines = path.read_text(encoding="utf-8").splitlines()
        return x25519.Identity.from_str(next(line.strip() for line in lines if line.startswith(KEY_LINE)))
    except OSError as error:
        raise SetupError(f"{path}: the key cannot be read ({error.strerror})") from error
    except (StopIteration, UnicodeDecodeError, pyrage.IdentityError) as error:
        raise SetupError(f"{path}: no key of a backup") from error


def seal(plain: Path, sealed: Path, key: Path) -> None:
    """Write a file again, sealed for a key. Raises SetupError."""
    identity = _identity(key)
    pyrage.encrypt_file(str(plain), str(sealed), [identity.to_public()])
    sealed.chmod(0o600)


def is_sealed(path: Path) -> bool:
    """Return whether a file is sealed. Raises SetupError where it cannot be read."""
    try:
        with path.open("rb") as file:
            return file.read(len(BEGINS)) == BEGINS
    except OSError as error:
        raise SetupError(f"{path}: cannot be read as a backup ({error.strerror})") from error


@contextlib.contextmanager
def opened(path: Path, key: Path | None) -> Iterator[Path]:
    """Give a backup as it can be read: itself, or opened with its key in a folder that is removed again.

    Raises SetupError for a sealed one without its key, with another key, or damaged.
    """
    if not is_sealed(path):
        yield path
        return
    if key is None:
        raise SetupError(f"{path}: it is sealed; --key=FILE names the key that it was made with")
    identity = _identity(key)
    with tempfile.TemporaryDirectory(prefix="unkett-") as folder:
        plain = Path(folder) / "backup.tar"
        try:
            pyrage.decrypt_file(str(path), str(plain), [identity])
        except (pyrage.DecryptError, OSError) as error:
            raise SetupError(f"{path}: {key} does not open it, or it is damaged") from error
        yield plain
