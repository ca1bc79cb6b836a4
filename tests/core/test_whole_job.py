"""A whole job as one file: the same bytes each time, what lies in it is refused in words, and every change is found."""

import io
import json
import uuid
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest

from ofen import __version__
from ofen.__main__ import main
from ofen.commissioning import seal
from ofen.document import write
from ofen.document.job import load
from ofen.figures.errors import JobFaults
from ofen.handover.verify import stamp_of, stamped, verify
from ofen.handover.whole_job import (
    FORMAT,
    Picture,
    Whole,
    chain,
    changed_since,
    digest_of,
    from_first,
    manifest_of,
    opened,
    packed,
    whole,
)
from ofen.plan import plan
from tests.conftest import ROOT, example

from .test_procedure import whole as whole_run

PNG = b"\x89PNG made up"
# The end of any PDF: where its table of parts begins, and its mark.
PDF = b"%PDF-1.7\n1 0 obj\n<<>>\nendobj\nxref\nstartxref\n28\n%%EOF\n"
ENTRY = {
    "id": "e1",
    "at": "2026-01-12T09:00:00+00:00",
    "kind": "weight",
    "subject": "supply-1",
    "value": 78.9,
    "vessel": 2,
    "by": "=Mirel",
}


@pytest.fixture(scope="module")
def made() -> Whole:
    document = example("tram-depot")
    planned = plan(load(document))
    procedure = planned.procedures[0]
    events = whole_run(procedure).events
    signed = {"by": "Mirel", "at": ENTRY["at"], "seal": seal.chain(procedure.digest, events)["head"]}
    run = {"unit": "heater-1", "document": document, "procedure": write(procedure.sealed), "events": events, "signed_off": signed}
    id = str(uuid.UUID(int=7))
    picture = Picture(
        id=id,
        name="Regulator",
        kind="image/png",
        digest=digest_of(PNG),
        size=len(PNG),
        by="Mirel",
        at=str(ENTRY["at"]),
        content=PNG,
    )
    return whole(document=document, plan=write(planned), runs=[run], entries=[ENTRY], pictures=[picture])


def again(content: bytes, change: Callable[[dict[str, bytes]], None]) -> bytes:
    """The same file with something in it changed, sizes and sums as a zip writes them."""
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        files = {n: archive.read(n) for n in archive.namelist()}
    change(files)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, body in files.items():
            archive.writestr(name, body)
    return out.getvalue()


def faults(content: bytes) -> str:
    with pytest.raises(JobFaults) as found:
        opened(content)
    return "; ".join(f"{f.path} {f.message}" for f in found.value.faults)


def test_the_same_job_is_the_same_bytes_and_comes_out_as_it_went_in(made: Whole) -> None:
    content = packed(made, __version__)
    assert packed(made, __version__) == content
    found = opened(content)
    assert (found.texts, found.pictures) == (dict(made.texts), list(made.pictures))
    assert packed(found, __version__) == content
    assert found.said("job.json") == example("tram-depot")
    # A cell that a spreadsheet would run stands as text (RFC 4180 for the rest).
    assert ",'=Mirel" in made.texts["log.csv"].decode()


def test_the_manifest_is_what_the_published_schema_says(made: Whole) -> None:
    jsonschema = pytest.importorskip("jsonschema")
    schema = json.loads((ROOT / "docs" / "whole-job.schema.json").read_text(encoding="utf-8"))
    seal_of = {"by": "a", "name": "b", "at": "c", "head": chain(made)[-1]["link"], "files": chain(made), "over": []}
    told = manifest_of(Whole(made.texts, made.pictures, [seal_of], ["x"]), __version__)
    jsonschema.validate(told, schema)
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate(told | {"head": "x"}, schema)
    assert schema["properties"]["format"]["const"] == FORMAT


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda f: f.update({"log.json": f["log.json"].replace(b"78.9", b"68.9")}), "log.json is not what the manifest says"),
        (lambda f: f.update({"../../etc/cron.d/x": b"x"}), "../../etc/cron.d/x has no place in a job file"),
        (lambda f: f.update({"/job.json": b"x"}), "/job.json has no place"),
        (lambda f: f.update({"photos/x.png": b"x"}), "photos/x.png has no place"),
        (lambda f: f.pop("plan.json"), "plan.json is missing"),
        (lambda f: f.pop(next(n for n in f if n.startswith("photos/"))), "is in the manifest and not in the file"),
        (lambda f: f.update({f"photos/{uuid.UUID(int=9)}.png": b"x"}), "is not in the manifest"),
        (lambda f: f.update({"manifest.json": b"{"}), "is no JSON"),
        (lambda f: f.update({"manifest.json": b"\xff"}), "manifest.json is no text"),
        (lambda f: f.update({"manifest.json": b'{"format": "other"}'}), "is not one of a whole job"),
        (
            lambda f: f.update({"manifest.json": b'{"format": "ofen-whole-job/9"}'}),
            f"another version of Ofen. This one reads {FORMAT}",
        ),
        (lambda f: f.update({"manifest.json": json.dumps({"format": FORMAT}).encode()}), "lists no files"),
        (
            lambda f: f.update({"manifest.json": f["manifest.json"].replace(b'"seals": []', b'"seals": [1]')}),
            "sign-offs that cannot be read",
        ),
        (
            lambda f: f.update({"manifest.json": f["manifest.json"].replace(b'"head": "', b'"head": "0')}),
            "a chain that is not over these files",
        ),
        (
            lambda f: f.update({"manifest.json": f["manifest.json"].replace(b'"kind": "image/png"', b'"kind": "text/html"')}),
            "is another picture than",
        ),
    ],
)
def test_what_is_wrong_with_a_file_is_named(made: Whole, change: Any, words: str) -> None:
    assert words in faults(again(packed(made, __version__), change))


def test_a_file_that_lies_about_its_sizes_is_read_no_further_than_it_says(made: Whole) -> None:
    content = bytearray(packed(made, __version__))
    # The directory at the end says how long each file is (APPNOTE 4.3.12: the size lies 24 bytes after its mark).
    at = content.rfind(b"PK\x01\x02")
    content[at + 24 : at + 28] = (5).to_bytes(4, "little")
    assert "says it is 5 bytes and is not" in faults(bytes(content)) or "no zip that can be read" in faults(bytes(content))
    content[at + 24 : at + 28] = (2**31).to_bytes(4, "little")
    assert "says" in faults(bytes(content))


def test_what_is_no_zip_is_refused_in_words(made: Whole) -> None:
    content = packed(made, __version__)
    for wrong in (b"PK", b"PK\x03\x04" + b"\0" * 40, content[:200], content[len(content) // 2 :]):
        assert faults(wrong)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for n in range(400):
            archive.writestr(f"photos/{uuid.UUID(int=n)}.png", b"")
    assert "has 400 files. At most 320 are read" in faults(out.getvalue())


def test_the_first_format_is_still_read_and_an_unknown_key_is_refused() -> None:
    document = example("tram-depot")
    found = from_first({"format": "ofen-whole-job/1", "job": document, "runs": [], "log": [ENTRY]})
    assert (found.said("job.json"), found.said("log.json")["entries"]) == (document, [ENTRY])
    with pytest.raises(JobFaults, match="mood"):
        from_first({"format": "ofen-whole-job/1", "mood": 1})


def test_a_report_and_its_data_belong_together_until_a_byte_is_another(made: Whole) -> None:
    data, report = packed(made, __version__), stamped(PDF, made)
    assert report.startswith(PDF)
    assert report.endswith(b"%%EOF\n")
    stamp = stamp_of(report)
    assert stamp is not None
    assert (stamp[0]["head"], stamp[1]) == (chain(made)[-1]["link"], PDF)
    good = verify({"report.pdf": report, "job.zip": data})
    assert all(f.good is not False for f in good), good
    assert {f.says for f in good} >= {
        "is whole in itself: it is what its stamp says",
        "belongs to job.zip: it was made of just this data",
    }
    for n in (9, 20, len(PDF) - 3):
        other = bytearray(report)
        other[n] ^= 1
        assert "was changed since it was made" in {f.says for f in verify({"r": bytes(other)})}
    other_job = whole(document=example("valve-house"), plan={}, runs=[], entries=[])
    says = {f.says for f in verify({"report.pdf": report, "job.zip": packed(other_job, __version__)}) if f.good is False}
    assert says == {"was made of another state of the data than job.zip: job.json, plan.json, runs.json, log.json, log.csv"}
    assert [f.good for f in verify({"a.pdf": PDF, "b.zip": b"no", "": b""})] == [False, False, False]


def test_every_byte_of_the_data_that_is_changed_is_found(made: Whole) -> None:
    content = packed(made, __version__)
    # Every 997th byte, and so the heads, the directory and the middle of each file.
    for n in range(0, len(content), 997):
        other = bytearray(content)
        other[n] ^= 0x20
        found = verify({"job.zip": bytes(other)})
        changed = opened_or_none(bytes(other))
        assert any(f.good is False for f in found) or changed == opened_or_none(content), n


def opened_or_none(content: bytes) -> dict[str, bytes] | None:
    try:
        return dict(opened(content).texts)
    except JobFaults:
        return None


def test_a_run_changed_inside_a_file_made_anew_is_still_found(made: Whole) -> None:
    runs = made.said("runs.json")["runs"]
    runs[0]["events"][3]["at"] = "2026-01-12T06:00:01+00:00"
    forged = whole(document=example("tram-depot"), plan={}, runs=runs, entries=[ENTRY])
    says = [f.says for f in verify({"job.zip": packed(forged, __version__)}) if f.good is False]
    assert says == ["run 1 (heater-1) is not as it was sealed: an event was changed, added or taken away"]


def test_a_job_that_went_on_since_its_sign_off_says_with_what(made: Whole) -> None:
    sealed = {"by": "Mirel", "name": "M. Ofner", "at": ENTRY["at"], "head": chain(made)[-1]["link"], "files": chain(made)}
    signed = Whole(made.texts, made.pictures, [sealed])
    (says,) = [f for f in verify({"j": packed(signed, __version__)}) if f.claim and f.claim.name == "M. Ofner"]
    assert (says.good, says.says) == (None, f"says that it is just what M. Ofner signed off at {ENTRY['at']}")
    assert says.claim is not None
    assert says.claim.digest == sealed["head"]
    more = whole(
        document=example("tram-depot"),
        plan=json.loads(made.texts["plan.json"]),
        runs=made.said("runs.json")["runs"],
        entries=[],
        pictures=made.pictures,
        seals=[sealed],
    )
    assert changed_since(sealed["files"], more) == ["log.csv", "log.json"]
    gone_on = " ".join(f.says for f in verify({"j": packed(more, __version__)}))
    assert "says that M. Ofner signed it off" in gone_on and "these changed since: log.csv, log.json" in gone_on
    other_rules = Whole({**made.texts, "plan.json": b"{}\n"}, made.pictures, [sealed])
    assert "Its plan follows other rules" in " ".join(f.says for f in verify({"j": packed(other_rules, __version__)}))


def test_a_forged_seal_is_never_vouched_for(made: Whole) -> None:
    """Whoever makes all digests anew makes a file that is whole in itself; who signed it is still only what it says."""
    other = whole(document=example("valve-house"), plan={}, runs=[], entries=[])
    invented = {
        "by": "The authority",
        "name": "The authority",
        "at": ENTRY["at"],
        "head": chain(other)[-1]["link"],
        "files": chain(other),
    }
    found = verify({"j": packed(Whole(other.texts, (), [invented]), __version__)})
    assert [f.good for f in found] == [True, None]
    assert not any("signed off by" in f.says or (f.good and "authority" in f.says) for f in found)
    # A head taken from elsewhere does not fit the list of files it stands beside.
    borrowed = invented | {"head": chain(made)[-1]["link"]}
    (bad,) = [f for f in verify({"j": packed(Whole(other.texts, (), [borrowed]), __version__)}) if f.good is False]
    assert bad.says == "has a seal in the name of The authority that does not fit its own list of files"


def test_the_command_says_it_and_ends_accordingly(made: Whole, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    (tmp_path / "job.zip").write_bytes(packed(made, __version__))
    (tmp_path / "report.pdf").write_bytes(stamped(PDF, made))
    assert main(["verify", str(tmp_path / "report.pdf"), str(tmp_path / "job.zip")]) == 0
    told = capsys.readouterr().out
    assert "belongs to" in told and "says that" in told and "the page /verify of the server" in told
    (tmp_path / "report.pdf").write_bytes(stamped(PDF, made).replace(b"1 0 obj", b"2 0 obj"))
    assert main(["verify", str(tmp_path / "report.pdf")]) == 1
    assert "STOP" in capsys.readouterr().out
    assert main(["verify", str(tmp_path / "none.zip")]) == 2
