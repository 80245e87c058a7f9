"""``bin/backup FILE`` and ``bin/restore FILE HOME``: the database and all files as one archive, while everything runs.

The archive is a tar of ``database.dump`` (pg_dump's custom format), ``files/…`` and, last, ``manifest.json`` with the SHA-256
of each. The database is dumped first: a file is in its place before the database tells of it, and what is deleted is
kept aside, so every file the dump tells of is there to be copied afterwards.
"""

from __future__ import annotations

import argparse
import hashlib
import io
import json
import os
import shutil
import subprocess
import tarfile
from collections.abc import Iterator
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import IO

from launch.application import REPOSITORY, keep_private
from launch.cluster import Cluster, postgres_programs

FORM = 1
_DUMP, _MANIFEST, _FILES = "database.dump", "manifest.json", "files/"
#: What a home holds that another one makes for itself, or computes again.
_LEFT_OUT = {
    "postgres", "postgres.log", "database.url", "start.lock", "regions", "scratch", "incoming", "logs", "password.tmp",
}  # fmt: skip
#: Files that are being written.
_UNFINISHED = (".part", ".tmp")


def database_url(home: Path) -> str:
    """Where the database of a home is; SystemExit if nothing tells."""
    file = home / "database.url"
    if url := os.environ.get("KITE_DATABASE_URL"):
        return url
    if not file.exists():
        raise SystemExit(f"There is no Kite Glass in {home}: it has no database.url. Set KITE_HOME to where it is.")
    return file.read_text().strip()


def files_of(home: Path) -> Iterator[Path]:
    """All files worth keeping, in a fixed order; links are left alone."""
    for folder, names, files in os.walk(home):
        left_out = _LEFT_OUT if Path(folder) == home else set()
        names[:] = sorted(set(names) - left_out)
        for name in sorted(set(files) - left_out):
            path = Path(folder) / name
            if not name.endswith(_UNFINISHED) and path.is_file() and not path.is_symlink():
                yield path


def backup(home: Path, url: str, target: Path) -> int:
    """Write everything into ``target``, which appears whole or not at all; gives the number of files."""
    part = target.with_name(f"{target.name}.part")
    sums: dict[str, str] = {}
    try:
        with TemporaryDirectory(dir=target.parent) as folder, part.open("xb") as file:
            part.chmod(0o600)
            dump = Path(folder) / _DUMP
            _run("pg_dump", "--format=custom", f"--file={dump}", url)
            with tarfile.open(fileobj=file, mode="w") as archive:
                _add(archive, dump, _DUMP, sums)
                for path in files_of(home):
                    _add(archive, path, f"{_FILES}{path.relative_to(home)}", sums)
                _tell(archive, {"form": FORM, "sha256": sums})
            file.flush()
            os.fsync(file.fileno())
        part.replace(target)
    except FileExistsError:
        raise SystemExit(f"{part} is there already: a backup is being made there, or one was broken off.") from None
    except BaseException:
        part.unlink(missing_ok=True)
        raise
    return len(sums) - 1


def _add(archive: tarfile.TarFile, path: Path, name: str, sums: dict[str, str]) -> None:
    """One file as it is now; one that has just gone is nobody's any more."""
    try:
        content = path.open("rb")
    except FileNotFoundError:
        return
    with content:
        entry = archive.gettarinfo(arcname=name, fileobj=content)
        entry.uid = entry.gid = 0
        entry.uname = entry.gname = ""
        counted = _Hashing(content)
        archive.addfile(entry, counted)
        sums[name] = counted.digest.hexdigest()


def _tell(archive: tarfile.TarFile, manifest: dict[str, object]) -> None:
    content = json.dumps(manifest, indent=1).encode()
    entry = tarfile.TarInfo(_MANIFEST)
    entry.size = len(content)
    archive.addfile(entry, io.BytesIO(content))


class _Hashing(io.RawIOBase):
    """A file that is hashed as it is read."""

    def __init__(self, source: IO[bytes]) -> None:
        self._source = source
        self.digest = hashlib.sha256()

    def read(self, size: int = -1) -> bytes:
        chunk = self._source.read(size)
        self.digest.update(chunk)
        return chunk


def restore(archive: Path, home: Path) -> int:
    """Lay an archive into an empty home and its database into a new cluster there; gives the number of files.

    Everything is checked against the manifest before anything is used. SystemExit with what is wrong, and an empty home again.
    """
    if home.exists() and any(home.iterdir()):
        raise SystemExit(f"{home} is not empty. Restore into a folder that is, and point KITE_HOME at it.")
    home.mkdir(parents=True, exist_ok=True)
    home.chmod(0o755)
    try:
        sums = _unpacked(archive, home)
        dump = home / _DUMP
        cluster = Cluster(home)
        try:
            _run("pg_restore", "--no-owner", "--exit-on-error", f"--dbname={cluster.start()}", str(dump))
        finally:
            cluster.stop()
        dump.unlink()
        keep_private(home)
    except BaseException:
        shutil.rmtree(home, ignore_errors=True)
        raise
    return len(sums) - 1


def _unpacked(path: Path, home: Path) -> dict[str, str]:
    """The files of an archive, laid into a home; gives their hashes. SystemExit if it is not whole."""
    found: dict[str, str] = {}
    manifest: dict[str, object] = {}
    try:
        with tarfile.open(path) as archive:
            for entry in archive:
                content = archive.extractfile(entry)
                if content is None or not entry.isfile():
                    raise SystemExit(f"{path.name} holds something that is no file: {entry.name}.")
                if entry.name == _MANIFEST:
                    manifest = json.loads(content.read())
                    continue
                place = home / (_DUMP if entry.name == _DUMP else entry.name.removeprefix(_FILES))
                if not place.resolve().is_relative_to(home.resolve()):
                    raise SystemExit(f"{path.name} holds a file that would lie outside the folder: {entry.name}.")
                place.parent.mkdir(parents=True, exist_ok=True)
                counted = _Hashing(content)
                with place.open("xb") as file:
                    shutil.copyfileobj(counted, file, 1 << 20)
                place.chmod(entry.mode & 0o777)
                os.utime(place, (entry.mtime, entry.mtime))
                found[entry.name] = counted.digest.hexdigest()
    except (OSError, tarfile.TarError, EOFError) as error:
        raise SystemExit(f"{path} cannot be read: {error}") from error
    if manifest.get("form") != FORM:
        raise SystemExit(f"{path.name} is no whole backup of this version: its manifest is missing. Use another one.")
    if manifest.get("sha256") != found:
        raise SystemExit(f"{path.name} is damaged: what it holds is not what was put into it. Use another one.")
    return found


def _run(program: str, *arguments: str) -> None:
    done = subprocess.run([str(postgres_programs() / program), *arguments], capture_output=True, text=True, check=False)
    if done.returncode != 0:
        # Its own words, without the address, which holds a password.
        raise SystemExit(f"{program} failed:\n{done.stderr.strip()}")


def main() -> None:
    parser = argparse.ArgumentParser(prog="bin/backup or bin/restore", description=__doc__)
    ways = parser.add_subparsers(dest="way", required=True)
    made = ways.add_parser("backup", help="write the database and all files into one archive")
    made.add_argument("archive", type=Path)
    laid = ways.add_parser("restore", help="lay an archive into an empty home")
    laid.add_argument("archive", type=Path)
    laid.add_argument("home", type=Path)
    options = parser.parse_args()
    if options.way == "restore":
        count = restore(options.archive.resolve(), options.home.resolve())
        print(
            f"{count} files and the database are in {options.home}. Start it with: KITE_HOME={options.home} bin/start --no-demo"
        )
        return
    home = Path(os.environ.get("KITE_HOME", REPOSITORY / ".kite")).resolve()
    target = options.archive.resolve()
    if target.is_relative_to(home):
        raise SystemExit("Write the archive outside the home that it is made of.")
    count = backup(home, database_url(home), target)
    print(f"{count} files and the database are in {options.archive}.")


if __name__ == "__main__":
    main()
