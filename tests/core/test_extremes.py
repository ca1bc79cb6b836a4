"""Legal jobs at their limits: each plans, every text has its values, the report writes it, and no count is below nothing."""

import copy
import json
import random
import re
from collections.abc import Iterator
from typing import Any

import pytest

from ofen import document
from ofen.document import write
from ofen.document.job import Job, dump, load, load_as_far
from ofen.figures.errors import JobFaults
from ofen.handover.report import AUDIENCES, Given, content
from ofen.handover.viewer import Viewer
from ofen.plan import plan
from tests.conftest import example, examples
from tests.core.logged import standing

NAMES = ("tram-depot", "canvas-hall", "seedling-house", "valve-house", "pontoon-cabin")
FIELD = re.compile(r"\{(\w+)\}")


def leaves(cls: Any, data: dict[str, Any]) -> Iterator[tuple[dict[str, Any], str, document.Spec]]:
    """Every value of a document with its declaration."""
    for name, spec in document.specs(cls).items():
        held = data.get(name)
        if spec.shape in ("number", "whole", "choice", "flag"):
            yield data, name, spec
        elif spec.shape == "one" and held is not None:
            yield from leaves(spec.of, held)
        elif spec.shape == "many":
            for entry in held or ():
                yield from leaves(spec.of[entry["kind"]] if isinstance(spec.of, dict) else spec.of, entry)


def pushed(found: dict[str, Any], chance: random.Random, count: int) -> dict[str, Any]:
    """The document with so many of its values put to their limits, close to them, or taken away."""
    made = copy.deepcopy(found)
    places = list(leaves(Job, made))
    for _ in range(count):
        data, name, spec = chance.choice(places)
        if spec.shape == "choice":
            data[name] = chance.choice([None, *(word for word, _ in spec.options)])
        elif spec.shape == "flag":
            data[name] = chance.choice([True, False, None])
        else:
            wide = spec.high - spec.low
            value = chance.choice([spec.low, spec.high, spec.low + wide * chance.random() ** 4, spec.low + 1e-9 * wide])
            data[name] = int(value) if spec.shape == "whole" else value
    return made


@pytest.mark.parametrize("seed", range(examples(8, 2)))
def test_a_legal_job_at_its_limits_plans_and_is_reported(seed: int) -> None:
    chance = random.Random(seed)
    whole = [dump(load(example(name))) for name in NAMES]
    for n in range(examples(60, 30)):
        made = pushed(chance.choice(whole), chance, chance.choice((1, 3, 10, 40)))
        if n % 2 == 0:
            made["site"]["outside_lowest_c"] = chance.uniform(-50, -20)
        elif made["need"]["spaces"]:
            made["need"]["spaces"][0]["inside_c"], made["site"]["outside_lowest_c"] = -5.0, 5.0
        job = load(made)
        found = plan(job)
        told = json.dumps(write(found), allow_nan=False)
        assert not re.search(r"[+ ]−?-\d+ heaters", told)
        for v in (write(v) for report in found.assessments for v in report.verdicts):
            asked = set(FIELD.findall(" ".join(v[k] for k in ("title", "reason", "remedy", "holds_to"))))
            assert asked <= set(v["values"]), v["code"]
        for system in ("metric", "us"):
            given = Given(standing=standing(found), entries=[], pictures=[], sealed=None, revision={})
            content(given, Viewer(system), AUDIENCES["inspector"])


@pytest.mark.parametrize("length", [0, 1e-9, 0.009])
def test_a_line_has_a_length_that_a_line_can_have(length: float) -> None:
    found = example("tram-depot")
    found["supplies"][0]["parts"][2]["length_m"] = length
    with pytest.raises(JobFaults, match=r"a value from 0\.01 m"):
        load(found)
    job, faults = load_as_far(found)
    assert [f.path for f in faults] == ["supplies[0].parts[2].length_m"]
    assert "supply.line.missing" in {v.code for v in plan(job).stage("supply").verdicts}
