"""The work at a desk, in a process beside the server. It uses the core alone, with no database and no files."""

from collections.abc import Callable
from dataclasses import dataclass
from hashlib import sha256
from typing import Any, Concatenate, ParamSpec, TypeVar

from ofen.call import as_text, asked_for, replied
from ofen.commissioning import seal
from ofen.commissioning.run import Gate
from ofen.document import write
from ofen.document.job import load_as_far
from ofen.figures.errors import Fault, JobFaults
from ofen.figures.memo import Memo
from ofen.handover import next_up, sheets
from ofen.handover.network import network
from ofen.handover.next_up import Attention
from ofen.handover.open_things import OpenItem
from ofen.handover.records import RecordTexts
from ofen.handover.sheets import Sheet
from ofen.handover.standing import Standing
from ofen.plan import Plan, plan
from ofen.questions.asking import all_questions
from ofen.siting.drawing import Shape, drawn
from ofen.supply.path_drawing import Way

P = ParamSpec("P")
T = TypeVar("T")
# The last plan made at this desk. Somebody who works on a job asks about one document again and again.
_last = Memo()


@dataclass(frozen=True)
class Evidence:
    """What holds the sign-off of a run, and what is sealed where nothing does."""

    gates: tuple[Gate, ...]
    sealed: dict[str, Any]


def reply(question: str, body: bytes) -> str:
    """Return the answer to a question as it goes over the wire; JobFaults with what of it cannot be used."""
    return replied(question, body, _last)


def digest(document: dict[str, Any]) -> str:
    """Return the digest of the plan of a document, as a device makes it of its own."""
    answer = asked_for("plan", {"document": document}, _last)
    return sha256(as_text({"answer": answer}).encode()).hexdigest()


def attention(texts: RecordTexts) -> Attention:
    """Return what a list keeps of a job, by its records."""
    return next_up.attention(_standing(texts))


def open_things(texts: RecordTexts) -> list[OpenItem]:
    """Return what is open on a job before its sign-off."""
    return list(_standing(texts).open)


def evidence(texts: RecordTexts, run_id: str) -> Evidence:
    """Return what holds the sign-off of one of a job's runs, and what is sealed of it; JobFaults where it cannot be read."""
    stands = _standing(texts)
    run = next((r for r in stands.runs if r.record.id == run_id), None)
    if run is None:
        raise JobFaults([Fault("run", "cannot be read, so it cannot be signed off")])
    if run.now.gates:
        return Evidence(run.now.gates, {})
    # Sealed in the order in which they count, each link holding the one before; what was taken back stays among them.
    events = seal.ordered(run.record.events)
    sealed = {
        "core_version": stands.plan.core_version,
        "document": texts.document,
        "plan": write(stands.plan),
        **{name: value for name, value in write(run.now).items() if name != "gates"},
        "events": events,
        "chain": seal.chain(run.record.procedure.digest, events),
    }
    return Evidence((), sealed)


def of_plan(document: dict[str, Any], work: Callable[Concatenate[Plan, P], T], *given: P.args, **named: P.kwargs) -> T:
    """Return what some work makes of the plan of a document, as far as the document can be read."""
    return work(plan(load_as_far(document)[0], memo=_last), *given, **named)


def ways(planned: Plan) -> list[Way]:
    """Return every way of the fuel of a plan, as it is drawn."""
    return [w for s in planned.supplies for w in s.ways]


def site(planned: Plan) -> list[Shape]:
    """Return the shapes of the site of a plan."""
    return drawn(planned.stage("siting"))


def network_of(planned: Plan, supply: int) -> str | None:
    """Return a supply of a plan as a network, None where there is no such supply."""
    if supply >= len(planned.supplies):
        return None
    return network(planned.supplies[supply], planned.placed.job.site.altitude_m or 0.0)


def joints(texts: RecordTexts) -> Sheet:
    """Return the joint register of a job."""
    stands = _standing(texts)
    return sheets.joints(stands.plan.supplies, stands.runs)


def ready() -> None:
    """Load every room that a question may need, so that nobody's question waits for it."""
    all_questions()


def _standing(texts: RecordTexts) -> Standing:
    return Standing(texts.read(), _last)
