"""Plan, commission, log and hand over a job with a fuel and a class of heater that were added as files; what came of it as JSON."""

import json
import sys
from datetime import timedelta
from pathlib import Path

from ofen.commissioning.procedure import unsealed
from ofen.document import write
from ofen.document.job import dump, load
from ofen.figures.memo import Memo
from ofen.handover import kit, run_now
from ofen.handover.cards import card
from ofen.handover.records import Records, RunRecord, RunSigned
from ofen.handover.report import AUDIENCES, Given, content
from ofen.handover.standing import Standing
from ofen.handover.viewer import Viewer
from ofen.plan import plan
from ofen.plant.catalogue import shipped
from ofen.questions.asking import question
from ofen.running import entries as log
from ofen.running.stop_order import stop_order
from ofen.running.visit import wanted
from tests.core.book import BEGUN, Book
from tests.core.test_procedure import GOOD

HERE = Path(__file__).parent
document = json.loads((HERE.parents[1] / "demo" / "pontoon-cabin.json").read_text(encoding="utf-8"))
sheet = json.loads((HERE / "sheet.json").read_text(encoding="utf-8"))
document["equipment"] |= {"heater_fuel": "fern_oil", "sheets": [sheet], "heaters": [{"id": "heater-1", "model": sheet["id"]}]}
document["supplies"][0] |= {"name": "Fern oil", "fuel": "fern_oil"}
document["supplies"][0]["liquid"] |= {"grade": "fern_first"}
document["prices"] = {"fern_oil": 1.5}
job = load(document)
planned = plan(job)
(procedure,) = planned.procedures
book = Book()
for step in procedure.steps:
    for after_s, event in step.done_well(GOOD):
        book.add(after_s=after_s, **event)
now = run_now.run_in(planned, unsealed(json.loads(json.dumps(write(procedure.sealed)))), book.events, [])


def read(hours: float, n: int, **more: object) -> dict[str, object]:
    return {"id": f"e{n}", "at": (BEGUN + timedelta(hours=hours)).isoformat(), "subject": "supply-1", **more}


entries = log.usable([read(6.0 * n, n, kind="gauge", value=0.9 - 0.1 * n) for n in range(4)])
run = RunRecord(
    id="run",
    unit=procedure.unit,
    begun_at=BEGUN.isoformat(),
    procedure=procedure,
    kept=(),
    folded=run_now.folded(procedure, book.events),
    signed=RunSigned(by="Mirel", at=BEGUN.isoformat(), server_at=BEGUN.isoformat()),
)
records = Records(document=document, runs=(run,), log=entries, now_s=(BEGUN + timedelta(hours=20)).timestamp())
stands = Standing(records)
report = content(
    Given(standing=stands, entries=entries, pictures=[], sealed=None, revision={}), Viewer("metric"), AUDIENCES["inspector"]
)
faults = question("faults").answer({"document": document, "unit": "heater-1", "symptom": "crate_sings"}, Memo())
json.dump(
    {
        "stops": [v.code for r in planned.assessments for v in r.verdicts if v.level == "stop"],
        "hours": planned.supplies[0].assessment.value("supply.hours_high_s"),
        "input_w": planned.stage("equipment").value("equipment.input_w"),
        "fuel_rows": [r["name"] for r in write(planned.stage("supply"))["tables"]["fuels"]],
        "cost": [r["cost"] for r in write(planned.stage("supply"))["tables"]["costs"]],
        "procedure": procedure.title,
        "gates": [g.code for g in now.gates],
        "machine": [m.state for m in stands.machines],
        "offered": sorted(d.purpose for d in planned.commissioned[0].offered),
        "left_kg": [r["left_kg"] for r in write(stands.running)["tables"].get("left", [])],
        "due": sorted({i.kind for i in stands.due}),
        "looks": [f.body["kind"] for f in wanted(planned, entries, records.now_s)],
        "stop": [a.say for a in stop_order(planned)],
        "kit": [i.key for i in kit.listed(planned, {}, ())],
        "card": card(planned, "night", "heater-1", "metric")["change_over_by"],
        "symptoms": [s["key"] for s in faults["symptoms"]],
        "causes": [c["key"] for c in faults["causes"]],
        "report": [s["title"] for s in report["stages"]],
        "round": dump(load(dump(job))) == dump(job),
        "found_there": str(Path(sys.modules["ofen"].__file__ or "").parent),
        "shipped": sheet["id"] in shipped().heaters,
    },
    sys.stdout,
)
