"""The seal of a signed run: a chain that shows a change of any event."""

import copy
import json
from pathlib import Path
from typing import Any

import pytest

from ofen.__main__ import main
from ofen.commissioning import seal
from ofen.document import write
from ofen.document.job import load
from ofen.plan import plan

from .test_procedure import whole


@pytest.fixture
def sealed(depot: dict[str, Any]) -> dict[str, Any]:
    procedure = plan(load(depot)).procedures[0]
    events = whole(procedure).events
    return {"procedure": write(procedure.sealed), "events": events, "chain": seal.chain(procedure.digest, events)}


def test_a_chain_holds_while_nothing_is_changed(sealed: dict[str, Any]) -> None:
    assert seal.broken(sealed) == ""
    # As it comes back from a database that keeps keys in an order of its own.
    again = json.loads(json.dumps(sealed, sort_keys=True))
    assert seal.broken(again) == ""
    links = sealed["chain"]["links"]
    assert len(links) == len(sealed["events"])
    assert sealed["chain"]["head"] == links[-1]["digest"]
    assert len({link["digest"] for link in links}) == len(links)


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda s: s["events"][3].update(at="2026-01-12T06:00:01+00:00"), "event 4 of"),
        (lambda s: s["events"].pop(), "events were sealed"),
        (lambda s: s["events"].insert(0, s["events"][5]), "event 1 of"),
        (lambda s: s["procedure"].update(digest="0"), "the procedure is not the one"),
        (lambda s: s["chain"].update(head="0"), "the head of the chain is another"),
        (lambda s: s["chain"]["links"][2].update(digest="0"), "event 3 of"),
        (lambda s: s.pop("chain"), "no sealed record with a chain"),
        (lambda s: s.update(events=None), "no sealed record with a chain"),
    ],
)
def test_any_change_shows_and_says_where(sealed: dict[str, Any], change: Any, words: str) -> None:
    other = copy.deepcopy(sealed)
    change(other)
    assert words in seal.broken(other)


def test_the_chain_command_checks_a_file(sealed: dict[str, Any], tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = tmp_path / "sealed.json"
    file.write_text(json.dumps(sealed))
    assert main(["chain", str(file)]) == 0
    assert sealed["chain"]["head"] in capsys.readouterr().out
    sealed["events"][0]["by"] = "Somebody else"
    file.write_text(json.dumps(sealed))
    assert main(["chain", str(file)]) == 2
    assert "event 1 of" in capsys.readouterr().out
    assert main(["chain", str(tmp_path / "none.json")]) == 2
