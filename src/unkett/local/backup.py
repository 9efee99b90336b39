"""`backup FILE` and `restore FILE`: the whole state in one file, checked before it replaces anything.

A backup is a tar of `manifest.json` (format, when, rows by table, checksums), `database.dump` (PostgreSQL's own
format) and `config.json`. It is made of one moment of the database, also while the application serves.
"""

from __future__ import annotations

import datetime
import hashlib
import io
import json
import os
import shutil
import subprocess
import tarfile
import tempfile
from pathlib import Path
from typing import Any

import psycopg
from psycopg import sql

from unkett.local.cluster import PENDING, binaries, connect, finish_restore, running_cluster
from unkett.local.locks import is_serving, only_start
from unkett.local.sealing import make_key, opened, seal
from unkett.local.state import SetupError, load_config, state_folder

FORMAT = "unkett.backup/1"
MEMBERS = ("manifest.json", "database.dump", "config.json")
KEPT = 14
RESTORING, BEFORE = "_restoring_", "_before_"  # in the names of databases while a restore is made
OLD, HALF_LOADED = "the data from before", "a copy that was not finished"
HALF_GONE = "the data from before, half removed once the new data was in place"
LOCK_WAIT_S = 30


def _client(password: str) -> dict[str, str]:
    return {"PATH": "/usr/bin:/bin", "LC_ALL": "C.UTF-8", "PGPASSWORD": password, "PGCONNECT_TIMEOUT": "5"}


def _program(name: str, *args: str, password: str) -> str:
    done = subprocess.run(
        [str(binaries() / name), *args],
        env=_client(password),
        cwd="/",
        capture_output=True,
        text=True,
        check=False,
    )
    if done.returncode:
        raise SetupError(f"{name} failed: {done.stderr.strip()[-600:]}")
    return done.stdout


def _where(admin: bool = False) -> tuple[list[str], str]:
    database = load_config()["database"]
    who = database["admin"] if admin else database
    args = [
        f"--host={database['host']}",
        f"--port={database['port']}",
        f"--username={who['user']}",
        "--no-password",
    ]
    return args, who["password"]


def rows_by_table(connection: psycopg.Connection[Any]) -> dict[str, int]:
    """Return how many rows each table has."""
    names = connection.execute(
        "select tablename from pg_tables where schemaname = 'public' order by tablename"
    ).fetchall()
    return {
        name: connection.execute(sql.SQL("select count(*) from {}").format(sql.Identifier(name))).fetchone()[
            0
        ]  # type: ignore[index]
        for (name,) in names
    }


def back_up(path: Path, key: Path | None = None) -> dict[str, Any]:
    """Write a backup, sealed where a key is given: whole or not at all. The cluster is up. Raises SetupError."""
    database = load_config()["database"]
    args, password = _where()
    path = path.resolve()
    if not path.parent.is_dir():
        raise SetupError(f"{path.parent}: no such folder")
    with (
        tempfile.TemporaryDirectory(prefix=".unkett-", dir=path.parent) as folder,
        connect(dbname=database["name"]) as connection,
    ):
        dump = Path(folder) / "database.dump"
        connection.execute("set statement_timeout = 0")
        connection.execute(f"set lock_timeout = '{LOCK_WAIT_S}s'")
        connection.execute("set idle_in_transaction_session_timeout = 0")
        connection.execute("begin isolation level repeatable read read only")
        snapshot = connection.execute("select pg_export_snapshot()").fetchone()
        assert snapshot is not None
        tables = rows_by_table(connection)
        _program(
            "pg_dump", *args, "--format=custom", f"--snapshot={snapshot[0]}", "--no-owner", "--no-privileges",
            f"--lock-wait-timeout={LOCK_WAIT_S * 1000}", f"--file={dump}", database["name"], password=password,
        )  # fmt: skip
        connection.execute("commit")
        config = json.dumps(load_config(), indent=2).encode()
        manifest = {
            "format": FORMAT,
            "made": datetime.datetime.now(datetime.UTC).isoformat(timespec="seconds"),
            "rows": tables,
            "sha256": {"database.dump": _sum(dump), "config.json": hashlib.sha256(config).hexdigest()},
        }
        fresh = Path(folder) / "backup.tar"
        with tarfile.open(fresh, "w") as tar:
            for name, content in (
                ("manifest.json", json.dumps(manifest, indent=1).encode()),
                ("config.json", config),
            ):
                member = tarfile.TarInfo(name)
                member.size, member.mode = len(content), 0o600
                tar.addfile(member, io.BytesIO(content))
            tar.add(dump, "database.dump")
        fresh.chmod(0o600)
        check(fresh)
        if key is not None:
            seal(fresh, Path(folder) / "backup.age", key)
            fresh = Path(folder) / "backup.age"
        with fresh.open("rb") as written:
            os.fsync(written.fileno())
        fresh.replace(path)
    return manifest


def _sum(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def check(path: Path) -> dict[str, Any]:
    """Return the manifest of a backup that is whole. Raises SetupError saying what is wrong."""
    try:
        with tarfile.open(path, "r:") as tar:
            names = tar.getnames()
            if sorted(names) != sorted(MEMBERS) or not all(tar.getmember(name).isfile() for name in names):
                raise SetupError(f"{path}: no backup of Unkett")
            manifest = json.loads(_member(tar, "manifest.json"))
            config = json.loads(_member(tar, "config.json"))
            if manifest.get("format") != FORMAT:
                raise SetupError(f"{path}: {manifest.get('format')!r} where {FORMAT} is wanted")
            for name, wanted in manifest["sha256"].items():
                with tar.extractfile(name) as file:  # type: ignore[union-attr]
                    if hashlib.file_digest(file, "sha256").hexdigest() != wanted:  # type: ignore[arg-type]
                        raise SetupError(f"{path}: {name} is damaged")
            if "secret_key" not in config:
                raise SetupError(f"{path}: its config.json is damaged")
            return dict(manifest)
    except (OSError, tarfile.TarError, ValueError, KeyError, AttributeError) as error:
        raise SetupError(f"{path}: cannot be read as a backup ({error})") from error


def _member(tar: tarfile.TarFile, name: str) -> bytes:
    file = tar.extractfile(name)
    assert file is not None
    return file.read()


def restore(path: Path, *, replace: bool, drill: bool = False) -> dict[str, Any]:
    """Put a backup in place of what is here; the cluster is up and nothing serves. A drill loads and compares it, and
    throws it away.

    The backup is loaded beside the database, compared with its manifest and given its configuration; then both
    databases are renamed in one transaction. Cut short at any moment, what is in place is the old state or the new
    one, whole. Nothing that an earlier restore left is dropped. Raises SetupError; then all is as before.
    """
    manifest = check(path)
    database = load_config()["database"]
    name, owner = database["name"], database["user"]
    if not replace and not drill and _has_work(name):
        raise SetupError(
            f"there is a workshop here already: {_in_words(name)}. --replace puts the backup in its place"
        )
    stamp = f"{datetime.datetime.now(datetime.UTC):%Y%m%d%H%M%S}{os.getpid()}"
    fresh, old = f"{name}{RESTORING}{stamp}", f"{name}{BEFORE}{stamp}"
    with connect(admin=True) as connection:
        connection.execute(
            sql.SQL("create database {} owner {}").format(sql.Identifier(fresh), sql.Identifier(owner))
        )
        try:
            _load(path, manifest, fresh, owner)
        except SetupError:
            _drop(connection, fresh)
            raise
        if drill:
            _drop(connection, fresh)
            return manifest
        _swap(connection, name, fresh, old)
        finish_restore()
        _drop(connection, old)
    return manifest


def _load(path: Path, manifest: dict[str, Any], fresh: str, owner: str) -> None:
    """Fill a new database from a backup and lay its configuration beside the tables. Raises SetupError."""
    args, password = _where(admin=True)
    with tempfile.TemporaryDirectory(prefix="unkett-") as folder:
        with tarfile.open(path, "r:") as tar:
            dump = Path(folder) / "database.dump"
            with dump.open("wb") as out:
                shutil.copyfileobj(tar.extractfile("database.dump"), out)  # type: ignore[arg-type]
            config = _member(tar, "config.json").decode()
        _program(
            "pg_restore", *args, "--no-owner", f"--role={owner}", "--exit-on-error", f"--dbname={fresh}", str(dump),
            password=password,
        )  # fmt: skip
    with connect(admin=True, dbname=fresh) as restored:
        found = rows_by_table(restored)
        if found != manifest["rows"]:
            raise SetupError(
                f"{path}: what was restored is not what was backed up: {_differs(found, manifest['rows'])}"
            )
        restored.execute(f"create schema {PENDING}")
        restored.execute(f"create table {PENDING}.config (content text not null)")
        restored.execute(f"insert into {PENDING}.config values (%s)", (config,))  # noqa: S608 - a constant


def _swap(connection: psycopg.Connection[Any], name: str, fresh: str, old: str) -> None:
    """Rename both databases in one transaction; whoever is connected is cut off."""
    rename = sql.SQL("alter database {} rename to {}")
    for last_try in (False, False, True):
        _cut_off(connection, name)
        _cut_off(connection, fresh)
        try:
            with connection.transaction():
                if connection.execute("select 1 from pg_database where datname = %s", (name,)).fetchone():
                    connection.execute(rename.format(sql.Identifier(name), sql.Identifier(old)))
                connection.execute(rename.format(sql.Identifier(fresh), sql.Identifier(name)))
        except psycopg.errors.ObjectInUse as error:
            if last_try:
                raise SetupError(f"the database is in use: {error}") from error
        else:
            return


def left_over() -> dict[str, str]:
    """Return the databases that restores which were cut short have left, by name, with what each is."""
    name = load_config()["database"]["name"]
    with connect(admin=True) as connection:
        rows = connection.execute(
            "select datname, datconnlimit = -2 from pg_database "
            "where starts_with(datname, %s) or starts_with(datname, %s) order by 1",
            (f"{name}{RESTORING}", f"{name}{BEFORE}"),
        ).fetchall()
    return {
        name: HALF_GONE if half_gone else OLD if BEFORE in name else HALF_LOADED for name, half_gone in rows
    }


def say_left_over() -> None:
    """Name on the terminal what restores which were cut short have left."""
    for name, what in left_over().items():
        print(
            f"unkett: a restore that was cut short left the database {name} ({what}); it is kept until you say "
            f"./unkett restore --remove={name}",
            flush=True,
        )


def _remove(name: str) -> None:
    if name not in left_over():
        raise SetupError(
            f"{name}: no database that a restore left; {', '.join(left_over()) or 'there is none'}"
        )
    with connect(admin=True) as connection:
        _drop(connection, name)
    print(f"unkett: {name} is removed", flush=True)


def _differs(found: dict[str, int], wanted: dict[str, int]) -> str:
    names = sorted(name for name in found.keys() | wanted.keys() if found.get(name) != wanted.get(name))
    return ", ".join(f"{name} has {found.get(name)} rows, {wanted.get(name)} wanted" for name in names[:3])


def _cut_off(connection: psycopg.Connection[Any], name: str) -> None:
    connection.execute("select pg_terminate_backend(pid) from pg_stat_activity where datname = %s", (name,))


def _drop(connection: psycopg.Connection[Any], name: str) -> None:
    connection.execute(sql.SQL("drop database if exists {} with (force)").format(sql.Identifier(name)))


def _has_work(name: str) -> bool:
    return bool(_in_words(name))


def _in_words(name: str) -> str:
    """Return the workshops of a database that are not the demonstration; nothing for a database without tables."""
    with connect(admin=True, dbname=name) as connection:
        there = connection.execute("select to_regclass('public.workshop_workshop')").fetchone()
        if there is None or there[0] is None:
            return ""
        rows = connection.execute("select name from workshop_workshop where not demo order by id").fetchall()
    return ", ".join(row[0] for row in rows)


def rotate(folder: Path) -> None:
    """Keep only the latest nightly backups of a folder."""
    for old in sorted(folder.glob("unkett-????-??-??.tar"))[:-KEPT]:
        old.unlink()


def backup_command(args: list[str]) -> int:
    """Write the whole state to one file, also while it is served: backup FILE [--key=KEYFILE].

    With a key the backup is sealed; a key file that is not there is made. Keep it elsewhere than the backups: without
    it nobody can read them.
    """
    key, args = _key(args)
    path = _only_file(args)
    if key is not None and not key.exists():
        make_key(key)
        print(f"unkett: new key in {key}: keep it elsewhere than the backups", flush=True)
    with running_cluster():
        manifest = back_up(path, key)
    print(
        f"unkett: {sum(manifest['rows'].values())} rows of {len(manifest['rows'])} tables in {path}",
        flush=True,
    )
    return 0


def restore_command(args: list[str]) -> int:
    """Put a backup in place of what is here, once it is found whole: restore FILE [--key=KEYFILE] [--replace].

    restore FILE --drill loads it beside what is here, compares every table and throws it away, also while Unkett
    serves.
    restore --remove=DATABASE drops what a restore that was cut short has left.
    """
    removes = [word.partition("=")[2] for word in args if word.startswith("--remove=")]
    if removes:
        if args != [f"--remove={removes[0]}"]:
            raise SetupError("--remove=DATABASE stands alone")
        with running_cluster():
            _remove(removes[0])
        return 0
    key, args = _key(args)
    path = _only_file([word for word in args if word not in ("--replace", "--drill")])
    with opened(path, key) as plain:
        check(plain)
        if "--drill" in args:
            with running_cluster():
                manifest = restore(plain, replace=False, drill=True)
            says = "would be restored whole; nothing here was changed"
        else:
            if is_serving():
                raise SetupError(f"Unkett is served from {state_folder()}: stop it first")
            with only_start(), running_cluster():
                say_left_over()
                manifest = restore(plain, replace="--replace" in args)
            says = "are in place"
    print(f"unkett: {sum(manifest['rows'].values())} rows of {manifest['made']} {says}", flush=True)
    return 0


def _key(args: list[str]) -> tuple[Path | None, list[str]]:
    """Return the key file that is named, and the other words."""
    named = [word.partition("=")[2] for word in args if word.startswith("--key=")]
    if len(named) > 1 or "" in named:
        raise SetupError("--key=KEYFILE names one file")
    return (Path(named[0]) if named else None), [word for word in args if not word.startswith("--key=")]


def _only_file(args: list[str]) -> Path:
    if len(args) != 1 or args[0].startswith("-"):
        raise SetupError("name one FILE")
    return Path(args[0])
