"""A whole job as one open file: a zip of its document, plan, runs, log and pictures, with a manifest of digests and the chain over them.

The same bytes come out for the same job, on the server as on a device: names in one order, no times, JSON with sorted keys.
"""

from __future__ import annotations

import io
import json
import re
import zipfile
import zlib
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from hashlib import sha256
from typing import Any

from ..document.wire import parsed
from ..figures.errors import Fault, JobFaults
from ..figures.numerics import total
from . import log_table

FORMAT, FIRST_FORMAT = "ofen-whole-job/2", "ofen-whole-job/1"
RUNS_FORMAT, LOG_FORMAT = "ofen-runs/1", "ofen-log/1"
MANIFEST = "manifest.json"
# In the order in which the chain goes over them; the pictures follow by name.
TEXTS = ("job.json", "plan.json", "runs.json", "log.json", "log.csv")
PICTURE = re.compile(r"photos/[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}\.(jpg|png|pdf)")
ENDINGS = {"image/jpeg": "jpg", "image/png": "png", "application/pdf": "pdf"}
# So many papers and pictures a job may have.
MOST_PICTURES = 200
MOST_FILES, MOST_TEXT_BYTES, MOST_PICTURE_BYTES, MOST_BYTES = 320, 48 * 1024**2, 12 * 1024**2, 256 * 1024**2
BEGAN = (1980, 1, 1, 0, 0, 0)


@dataclass(frozen=True, kw_only=True)
class Picture:
    """A picture or paper of a job: its id there, what it is called, its kind, its digest, who kept it when; content where it is at hand."""

    id: str
    name: str
    kind: str
    digest: str
    size: int
    by: str = ""
    at: str = ""
    content: bytes | None = None

    @property
    def file(self) -> str:
        """Its name in the file."""
        return f"photos/{self.id}.{ENDINGS[self.kind]}"


@dataclass(frozen=True)
class Whole:
    """All of a job as it stands in the file: texts by name, pictures, the sign-offs given on it, and what could not come along."""

    texts: Mapping[str, bytes]
    pictures: Sequence[Picture] = ()
    seals: Sequence[Mapping[str, Any]] = ()
    lost: Sequence[str] = ()
    manifest: Mapping[str, Any] = field(default_factory=dict)

    def said(self, name: str) -> Any:
        """Return what one of the JSON files says.

        Arguments: name, one of TEXTS.
        Errors: JobFaults where it is no JSON that can be kept.
        Source: RFC 8259.
        """
        try:
            return parsed(self.texts[name].decode("utf-8"))
        except UnicodeDecodeError:
            raise JobFaults([Fault(name, "is no text")]) from None


def written(data: Any) -> bytes:
    """Return data as JSON, always the same bytes for the same data.

    Source: RFC 8259.
    """
    return (json.dumps(data, ensure_ascii=False, sort_keys=True, indent=1) + "\n").encode("utf-8")


def whole(
    *,
    document: Any,
    plan: Any,
    runs: Sequence[Any],
    entries: Sequence[dict[str, Any]],
    pictures: Iterable[Picture] = (),
    seals: Sequence[Mapping[str, Any]] = (),
    lost: Sequence[str] = (),
) -> Whole:
    """Return a job as it stands in the file.

    Arguments: document; plan as plain data; runs, each with its document, procedure and events; entries, every one ever made;
    pictures; seals, the sign-offs of the job; lost, in words, what could not come along: a
    picture whose file is not where it should be, a record that cannot be read.
    """
    texts = {
        "job.json": written(document),
        "plan.json": written(plan),
        "runs.json": written({"format": RUNS_FORMAT, "runs": list(runs)}),
        "log.json": written({"format": LOG_FORMAT, "entries": list(entries)}),
        "log.csv": log_table.csv_text(entries).encode("utf-8"),
    }
    return Whole(texts, sorted(pictures, key=lambda p: p.file), seals, sorted(lost))


def chain(made: Whole) -> list[dict[str, str]]:
    """Return the chain over the files of a job: of each its digest, and a link that holds the one before.

    Arguments: made.
    Source: a hash chain by SHA-256 (FIPS 180-4).
    """
    return _chained([(name, digest_of(made.texts[name])) for name in TEXTS] + [(p.file, p.digest) for p in made.pictures])


def head_of(files: Any) -> str | None:
    """Return the head of the chain over a list of files with their digests, as a seal has it; None where it is no such list.

    Arguments: files, plain data of a manifest.
    Source: as `chain`.
    """
    if not isinstance(files, list) or not all(isinstance(f, dict) for f in files) or not files:
        return None
    return _chained([(str(f.get("name")), str(f.get("digest"))) for f in files])[-1]["link"]


def _chained(digests: Iterable[tuple[str, str]]) -> list[dict[str, str]]:
    links, last = [], FORMAT
    for name, digest in digests:
        last = digest_of(f"{last}\n{name}\n{digest}".encode())
        links.append({"name": name, "digest": digest, "link": last})
    return links


def changed_since(files: Any, whole_job: Whole) -> list[str]:
    """Return which files are others now than they were when they were sealed; the plan follows from the rest and is not asked.

    Arguments: files, the links that were sealed; whole_job, the job as it is.
    """
    then = {str(f.get("name")): f.get("digest") for f in files or () if isinstance(f, dict)}
    now = {link["name"]: link["digest"] for link in chain(whole_job)}
    return sorted(n for n in then.keys() | now.keys() if n != "plan.json" and then.get(n) != now.get(n))


def digest_of(content: bytes) -> str:
    """Return the SHA-256 of some bytes as hexadecimal digits.

    Source: FIPS 180-4.
    """
    return sha256(content).hexdigest()


def manifest_of(whole_job: Whole, core_version: str) -> dict[str, Any]:
    """Return the manifest: each file with its size and digest, the chain and its head, the sign-offs.

    Arguments: whole_job; core_version, by whose rules the plan is.
    """
    links = chain(whole_job)
    sizes = {name: len(content) for name, content in whole_job.texts.items()} | {p.file: p.size for p in whole_job.pictures}
    told = {p.file: {"id": p.id, "name": p.name, "kind": p.kind, "by": p.by, "at": p.at} for p in whole_job.pictures}
    return {
        "format": FORMAT,
        "core_version": core_version,
        "files": [
            {**link, "size": sizes[link["name"]], **({"picture": told[link["name"]]} if link["name"] in told else {})}
            for link in links
        ],
        "head": links[-1]["link"],
        "seals": [dict(s) for s in whole_job.seals],
        "lost": list(whole_job.lost),
    }


def packed(whole_job: Whole, core_version: str) -> bytes:
    """Return the file.

    Arguments: whole_job, each picture with its content; core_version.
    Source: ZIP by the standard library.
    """
    files = [(MANIFEST, written(manifest_of(whole_job, core_version)))]
    files += [(name, whole_job.texts[name]) for name in TEXTS]
    files += [(p.file, p.content or b"") for p in whole_job.pictures]
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, content in files:
            info = zipfile.ZipInfo(name, BEGAN)
            info.compress_type = zipfile.ZIP_STORED if name.startswith("photos/") else zipfile.ZIP_DEFLATED
            info.external_attr = 0o644 << 16
            archive.writestr(info, content)
    return out.getvalue()


def opened(content: bytes) -> Whole:
    """Return what a file holds, checked wholly: nothing of it is used before its sizes, names and digests are what they should be.

    Arguments: content of the file.
    Errors: JobFaults naming each file with what is wrong with it.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            return _read(archive)
    except (
        zipfile.BadZipFile,
        zipfile.LargeZipFile,
        zlib.error,
        EOFError,
        OSError,
        NotImplementedError,
        RuntimeError,
        ValueError,
    ) as wrong:
        if isinstance(wrong, JobFaults):
            raise
        raise _refused("", f"is no zip that can be read: {wrong}") from None


def from_first(data: Any) -> Whole:
    """Return what a file of the first format held: one JSON with document, runs and log, no pictures.

    Arguments: data, what it says.
    Errors: JobFaults where it is none.
    Source: `ofen-whole-job/1`.
    """
    known = ("format", "job", "runs", "log")
    wrong = [Fault(k, f"is not known here. Known: {', '.join(known)}") for k in data if k not in known]
    wrong += [Fault(k, "must be a list") for k in ("runs", "log") if not isinstance(data.get(k, []), list)]
    if wrong:
        raise JobFaults(wrong)
    texts = {
        "job.json": written(data.get("job")),
        "runs.json": written({"format": RUNS_FORMAT, "runs": data.get("runs", [])}),
        "log.json": written({"format": LOG_FORMAT, "entries": data.get("log", [])}),
    }
    return Whole(texts)


def _refused(name: str, why: str) -> JobFaults:
    return JobFaults([Fault(name, why)])


def _read(archive: zipfile.ZipFile) -> Whole:
    infos = archive.infolist()
    if len(infos) > MOST_FILES:
        raise _refused("", f"has {len(infos)} files. At most {MOST_FILES} are read")
    names = [i.filename for i in infos]
    wrong = [Fault(n[:200], _why_not(n)) for n in dict.fromkeys(names) if _why_not(n)]
    wrong += [Fault(n[:200], "is there twice") for n in dict.fromkeys(names) if names.count(n) > 1]
    wrong += [Fault(n, "is missing") for n in (MANIFEST, *TEXTS) if n not in names]
    if total(i.file_size for i in infos) > MOST_BYTES:
        wrong.append(Fault("", f"says it holds more than {MOST_BYTES // 1024**2} MB"))
    if wrong:
        raise JobFaults(wrong)
    found = {i.filename: _content(archive, i) for i in infos}
    return _held_against(found, _manifest(found[MANIFEST]))


def _why_not(name: str) -> str:
    if name in (MANIFEST, *TEXTS) or PICTURE.fullmatch(name):
        return ""
    return "has no place in a job file. A job file has manifest.json, " + ", ".join(TEXTS) + " and photos/ID.jpg, .png or .pdf"


def _content(archive: zipfile.ZipFile, info: zipfile.ZipInfo) -> bytes:
    """A file of the zip, read no further than it says it is long."""
    most = MOST_PICTURE_BYTES if info.filename.startswith("photos/") else MOST_TEXT_BYTES
    if info.file_size > most:
        raise _refused(info.filename, f"says it is {info.file_size:,} bytes. At most {most:,} are read")
    with archive.open(info) as one:
        content = one.read(info.file_size + 1)
    if len(content) != info.file_size:
        raise _refused(info.filename, f"says it is {info.file_size:,} bytes and is not")
    return content


def _manifest(content: bytes) -> dict[str, Any]:
    try:
        manifest = parsed(content.decode("utf-8"))
    except UnicodeDecodeError:
        raise _refused(MANIFEST, "is no text") from None
    known = isinstance(manifest, dict) and str(manifest.get("format") or "")
    if not isinstance(manifest, dict) or not known or not str(known).startswith("ofen-whole-job/"):
        raise _refused(MANIFEST, "is not one of a whole job")
    if known != FORMAT:
        raise _refused(MANIFEST, f"is of {known}, made by another version of Ofen. This one reads {FORMAT}. Import it there.")
    return manifest


def _held_against(contents: dict[str, bytes], manifest: dict[str, Any]) -> Whole:
    """The files, each what the manifest says of it, none more and none less."""
    rows = manifest.get("files")
    if not isinstance(rows, list) or not all(isinstance(r, dict) and isinstance(r.get("name"), str) for r in rows):
        raise _refused(MANIFEST, "lists no files")
    listed = {r["name"]: r for r in rows}
    wrong = [Fault(n, "is not in the manifest") for n in contents if n != MANIFEST and n not in listed]
    pictures = []
    for name, row in listed.items():
        if name not in contents:
            wrong.append(Fault(name[:200], "is in the manifest and not in the file"))
            continue
        digest = digest_of(contents[name])
        if row.get("digest") != digest or row.get("size") != len(contents[name]):
            wrong.append(Fault(name, "is not what the manifest says: it was changed since it was written"))
        elif PICTURE.fullmatch(name):
            pictures.append(_picture(name, row, digest, contents[name], wrong))
    ids = [p.id for p in pictures]
    wrong += [Fault(p.file, "has the id of another picture") for n, p in enumerate(pictures) if p.id in ids[:n]]
    if len(pictures) > MOST_PICTURES:
        wrong.append(Fault("", f"has {len(pictures)} pictures and papers. A job may have {MOST_PICTURES}"))
    if wrong:
        raise JobFaults(wrong)
    whole_job = Whole(
        {n: contents[n] for n in TEXTS}, sorted(pictures, key=lambda p: p.file), _seals(manifest), _lost(manifest), manifest
    )
    links = chain(whole_job)
    if [(r.get("name"), r.get("link")) for r in rows] != [(k["name"], k["link"]) for k in links] or manifest.get("head") != links[
        -1
    ]["link"]:
        raise _refused(MANIFEST, "has a chain that is not over these files")
    return whole_job


def _picture(name: str, row: dict[str, Any], digest: str, content: bytes, wrong: list[Fault]) -> Picture:
    described = row.get("picture") if isinstance(row.get("picture"), dict) else {}
    assert isinstance(described, dict)
    said = {n: described.get(n) for n in ("id", "name", "kind", "by", "at")}
    texts = {n: v if isinstance(v, str) else "" for n, v in said.items()}
    picture = Picture(
        id=texts["id"],
        name=texts["name"][:120],
        kind=texts["kind"],
        digest=digest,
        size=len(content),
        by=texts["by"][:200],
        at=texts["at"][:40],
        content=content,
    )
    if picture.kind not in ENDINGS or picture.file != name:
        wrong.append(Fault(name, "is another picture than the manifest says"))
    return picture


def _seals(manifest: dict[str, Any]) -> list[dict[str, Any]]:
    seals = manifest.get("seals")
    if not isinstance(seals, list) or not all(isinstance(s, dict) and isinstance(s.get("head"), str) for s in seals):
        raise _refused(MANIFEST, "has sign-offs that cannot be read")
    return seals


def _lost(manifest: dict[str, Any]) -> list[str]:
    names = manifest.get("lost", [])
    if not isinstance(names, list) or not all(isinstance(n, str) for n in names):
        raise _refused(MANIFEST, "has a list of lost pictures that cannot be read")
    return names
