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

from unkett.local.cluster import binaries, connect, running_cluster
from unkett.local.state import SetupError, load_config, save_config, state_folder

FORMAT = "unkett.backup/1"
MEMBERS = ("manifest.json", "database.dump", "config.json")
KEPT = 14
OF_THE_MACHINE = (
    "cluster",
    "database",
    "set_up_code",
)  # of a configuration what a restore leaves as it is here


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
    """How many rows each table has."""
    names = connection.execute(
        "select tablename from pg_tables where schemaname = 'public' order by tablename"
    ).fetchall()
    return {
        name: connection.execute(sql.SQL("select count(*) from {}").format(sql.Identifier(name))).fetchone()[
            0
        ]  # type: ignore[index]
        for (name,) in names
    }


def back_up(path: Path) -> dict[str, Any]:
    """Write a backup: whole or not at all. The cluster is up. Raises SetupError."""
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
        connection.execute("set idle_in_transaction_session_timeout = 0")
        connection.execute("begin isolation level repeatable read read only")
        snapshot = connection.execute("select pg_export_snapshot()").fetchone()
        assert snapshot is not None
        tables = rows_by_table(connection)
        _program(
            "pg_dump", *args, "--format=custom", f"--snapshot={snapshot[0]}", "--no-owner", "--no-privileges",
            "--lock-wait-timeout=30000", f"--file={dump}", database["name"], password=password,
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
        with fresh.open("rb") as written:
            os.fsync(written.fileno())
        fresh.replace(path)
    return manifest


def _sum(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def check(path: Path) -> dict[str, Any]:
    """The manifest of a backup that is whole. Raises SetupError saying what is wrong."""
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


def restore(path: Path, *, replace: bool) -> dict[str, Any]:
    """Put a backup in place of what is here; the cluster is up and nothing serves.

    The backup is loaded beside the database, compared with its manifest, and only then takes its place. Raises
    SetupError; then all is as before.
    """
    manifest = check(path)
    database = load_config()["database"]
    name, fresh = database["name"], f"{database['name']}_restored"
    if not replace and _has_work(name):
        raise SetupError(
            f"there is a workshop here already: {_told(name)}. --replace puts the backup in its place"
        )
    args, password = _where(admin=True)
    with tempfile.TemporaryDirectory(prefix="unkett-") as folder:
        with tarfile.open(path, "r:") as tar:
            dump = Path(folder) / "database.dump"
            with dump.open("wb") as out:
                shutil.copyfileobj(tar.extractfile("database.dump"), out)  # type: ignore[arg-type]
            config = json.loads(_member(tar, "config.json"))
        with connect(admin=True) as connection:
            _drop(connection, fresh)
            connection.execute(
                sql.SQL("create database {} owner {}").format(
                    sql.Identifier(fresh), sql.Identifier(database["user"])
                )
            )
            try:
                _program(
                    "pg_restore", *args, "--no-owner", f"--role={database['user']}", "--exit-on-error",
                    f"--dbname={fresh}", str(dump), password=password,
                )  # fmt: skip
                with connect(admin=True, dbname=fresh) as restored:
                    found = rows_by_table(restored)
                if found != manifest["rows"]:
                    raise SetupError(
                        f"{path}: what was restored is not what was backed up: {_differs(found, manifest['rows'])}"
                    )
            except SetupError:
                _drop(connection, fresh)
                raise
            old = f"{name}_before"
            _drop(connection, old)
            _cut_off(connection, name)
            if connection.execute("select 1 from pg_database where datname = %s", (name,)).fetchone():
                connection.execute(
                    sql.SQL("alter database {} rename to {}").format(
                        sql.Identifier(name), sql.Identifier(old)
                    )
                )
            connection.execute(
                sql.SQL("alter database {} rename to {}").format(sql.Identifier(fresh), sql.Identifier(name))
            )
            mine = load_config()
            save_config({**config, **{key: mine[key] for key in OF_THE_MACHINE if key in mine}})
            _drop(connection, old)
    return manifest


def _differs(found: dict[str, int], wanted: dict[str, int]) -> str:
    names = sorted(name for name in found.keys() | wanted.keys() if found.get(name) != wanted.get(name))
    return ", ".join(f"{name} has {found.get(name)} rows, {wanted.get(name)} wanted" for name in names[:3])


def _cut_off(connection: psycopg.Connection[Any], name: str) -> None:
    connection.execute("select pg_terminate_backend(pid) from pg_stat_activity where datname = %s", (name,))


def _drop(connection: psycopg.Connection[Any], name: str) -> None:
    connection.execute(sql.SQL("drop database if exists {} with (force)").format(sql.Identifier(name)))


def _has_work(name: str) -> bool:
    return bool(_told(name))


def _told(name: str) -> str:
    """The workshops of a database that are not the demonstration; nothing for a database without tables."""
    with connect(admin=True, dbname=name) as connection:
        there = connection.execute("select to_regclass('public.workshop_workshop')").fetchone()
        if there is None or there[0] is None:
            return ""
        rows = connection.execute("select name from workshop_workshop where not demo order by id").fetchall()
    return ", ".join(row[0] for row in rows)


def rotate(folder: Path) -> None:
    """Of the nightly backups in a folder keep the latest."""
    for old in sorted(folder.glob("unkett-????-??-??.tar"))[:-KEPT]:
        old.unlink()


def backup_command(args: list[str]) -> int:
    """Write the whole state to one file, also while it is served: backup FILE."""
    path = _only_file(args)
    with running_cluster():
        manifest = back_up(path)
    print(
        f"unkett: {sum(manifest['rows'].values())} rows of {len(manifest['rows'])} tables in {path}",
        flush=True,
    )
    return 0


def restore_command(args: list[str]) -> int:
    """Put a backup in place of what is here, once it is found whole: restore FILE [--replace]."""
    from unkett.local.serving import is_serving

    path = _only_file([word for word in args if word != "--replace"])
    check(path)
    if is_serving():
        raise SetupError(f"Unkett is served from {state_folder()}: stop it first")
    with running_cluster():
        manifest = restore(path, replace="--replace" in args)
    print(f"unkett: {sum(manifest['rows'].values())} rows of {manifest['made']} are in place", flush=True)
    return 0


def _only_file(args: list[str]) -> Path:
    if len(args) != 1 or args[0].startswith("-"):
        raise SetupError("one FILE is wanted")
    return Path(args[0])
