"""Whether a report and the data of a job belong together and are unchanged: told of files, whoever has them."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from ..commissioning import seal
from ..figures.errors import JobFaults, told
from .whole_job import TEXTS, Whole, chain, changed_since, digest_of, head_of, opened

REPORT_FORMAT = "ofen-report/1"
MARK, ENDS = b"\n%ofen-report ", b"\n%%EOF\n"
MOST_NAME = 200


@dataclass(frozen=True)
class SealClaim:
    """What a file only says of itself, and the server that sealed it can confirm: the digest it knows that by, who signed, and when."""

    digest: str
    name: str
    at: str


@dataclass(frozen=True)
class FileFinding:
    """One thing that was looked at, in words, of which file: whether it is as it was, None for what only the server can say."""

    good: bool | None
    file: str
    says: str
    claim: SealClaim | None = None


def stamped(report: bytes, whole_job: Whole) -> bytes:
    """Return a PDF with a stamp at its end: a digest of all before it, and of which state of which data it is.

    Arguments: report, a PDF; whole_job, the data it was made of.
    Errors: ValueError for what is no whole PDF.
    Source: PDF takes comments between its body and its end (ISO 32000).
    """
    begins = report.rfind(b"startxref")
    if begins < 0:
        raise ValueError("no PDF that ends as one")
    end = report[begins:].split(b"%%EOF")[0].strip()
    links = chain(whole_job)
    told = {
        "format": REPORT_FORMAT,
        "digest": digest_of(report),
        "head": links[-1]["link"],
        "files": {k["name"]: k["digest"] for k in links if k["name"] in TEXTS},
    }
    return report + MARK + json.dumps(told, sort_keys=True).encode() + b"\n" + end + ENDS


def stamp_of(report: bytes) -> tuple[dict[str, object], bytes] | None:
    """Return what a report's stamp says, and the bytes it speaks of; None where there is no stamp.

    Arguments: report, a PDF.
    Source: `stamped`.
    """
    before, mark, after = report.rpartition(MARK)
    if not mark:
        return None
    try:
        stamp = json.loads(after.split(b"\n")[0])
    except ValueError:
        return None
    return (stamp, before) if isinstance(stamp, dict) and stamp.get("format") == REPORT_FORMAT else None


def verify(files: Mapping[str, bytes]) -> list[FileFinding]:
    """Return what is found of some files: reports (PDF) and whole jobs (zip), each by itself and against the other.

    Arguments: files by name.
    Source: SHA-256 (FIPS 180-4). It shows every change that was not made on purpose with all digests made anew. Who signed
    something off is what the file says; that it is so can only be said by the server that sealed it, which keeps the digests.
    """
    file_findings: list[FileFinding] = []
    reports: dict[str, dict[str, Any]] = {}
    jobs: dict[str, Whole] = {}
    for name, content in files.items():
        if content.startswith(b"%PDF"):
            stamp = stamp_of(content)
            if stamp is None:
                file_findings.append(FileFinding(False, name, "is no report of a job: it has no stamp"))
                continue
            stamped_with, before = stamp
            same = digest_of(before) == stamped_with.get("digest")
            file_findings.append(
                FileFinding(
                    same, name, "is whole in itself: it is what its stamp says" if same else "was changed since it was made"
                )
            )
            reports[name] = stamped_with
        else:
            try:
                jobs[name] = opened(content)
            except JobFaults as wrong:
                file_findings += [FileFinding(False, name, f"{f.path} {f.message}".strip()) for f in wrong.faults]
                continue
            file_findings.append(FileFinding(True, name, "is whole in itself: every file in it is what its manifest says"))
            file_findings += _seals(name, jobs[name])
    file_findings += [_together(r, stamp, j, made) for r, stamp in reports.items() for j, made in jobs.items()]
    if not files:
        file_findings.append(FileFinding(False, "", "no file was given"))
    return file_findings


def _seals(name: str, whole_job: Whole) -> list[FileFinding]:
    file_findings = []
    head = chain(whole_job)[-1]["link"]
    for s in whole_job.seals:
        signer, at = str(s.get("name") or s.get("by") or "somebody"), told(s.get("at", ""))
        # The server is asked about the whole name, although only its beginning may be shown here.
        who, claim = told(signer), SealClaim(str(s.get("head"))[:64], signer[:MOST_NAME], at)
        if s.get("head") == head:
            file_findings.append(FileFinding(None, name, f"says that it is just what {who} signed off at {at}", claim))
        elif head_of(s.get("files")) != s.get("head"):
            file_findings.append(
                FileFinding(False, name, f"has a seal in the name of {who} that does not fit its own list of files")
            )
        else:
            others = changed_since(s.get("files"), whole_job)
            words = f" and that these changed since: {', '.join(map(told, others))}" if others else ". Its plan follows other rules"
            file_findings.append(FileFinding(None, name, f"says that {who} signed it off at {at}{words}", claim))
    try:
        runs = whole_job.said("runs.json")["runs"]
        for n, run in enumerate(runs):
            sealed = run.get("signed_off")
            if isinstance(sealed, dict) and sealed.get("seal"):
                here = f"run {n + 1} ({told(run.get('unit'))})"
                kept = seal.chain(run["procedure"]["digest"], seal.ordered(run["events"]))["head"]
                if kept != sealed["seal"]:
                    says = f"{here} is not as it was sealed: an event was changed, added or taken away"
                    file_findings.append(FileFinding(False, name, says))
                    continue
                signer, at = str(sealed.get("by") or "somebody"), told(sealed.get("at", ""))
                claim = SealClaim(kept, signer[:MOST_NAME], at)
                file_findings.append(FileFinding(None, name, f"says that {told(signer)} signed {here} off at {at}", claim))
    except (JobFaults, KeyError, TypeError, AttributeError, ValueError):
        file_findings.append(FileFinding(False, name, "runs.json cannot be read"))
    return file_findings


def _together(report: str, stamp: Mapping[str, Any], job: str, whole_job: Whole) -> FileFinding:
    links = chain(whole_job)
    if stamp.get("head") == links[-1]["link"]:
        return FileFinding(True, report, f"belongs to {job}: it was made of just this data")
    now, then = {k["name"]: k["digest"] for k in links}, stamp.get("files")
    others = [n for n in TEXTS if not isinstance(then, dict) or then.get(n) != now.get(n)] or ["photos"]
    return FileFinding(False, report, f"was made of another state of the data than {job}: {', '.join(others)}")
