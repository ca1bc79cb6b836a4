"""The log in columns: readings by month, drawn together, newest of each series; corrections and files taken back; board and day."""

import io
import random
import uuid
from datetime import UTC, datetime, timedelta
from typing import Any
from urllib.parse import quote

import pytest
from django.core.management import call_command
from django.db import connection
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from handover.signing import open_of
from jobs.api import BoardLine
from jobs.models import Job
from jobs.snapshot import Snapshot
from logbook.windows import Series, all_series, window
from tests.conftest import example, examples

from .conftest import Caller, log_entry

BEGUN = datetime(2026, 1, 12, 6, tzinfo=UTC)


def asked(sql: str, *arguments: Any) -> list[Any]:
    with connection.cursor() as cursor:
        cursor.execute(sql, arguments)
        return list(cursor.fetchall())


def reading(after_s: float, value: float, **more: Any) -> dict[str, Any]:
    return log_entry(at=(BEGUN + timedelta(seconds=after_s)).isoformat(), value=value, **more)


def keep(me: Caller, job: dict[str, Any], entries: list[dict[str, Any]]) -> None:
    assert me.log(job, entries) == (200, None)


def all_as_made_anew(job: dict[str, Any]) -> None:
    """What the database keeps beside the log is what the log says, wholly made anew."""
    counts = """
        FROM logbook_entry e, logbook_level l WHERE e.job_id = %s AND e.value IS NOT NULL AND e.kind NOT IN ('kit', 'undone')
        AND NOT EXISTS (SELECT FROM logbook_entry c WHERE c.corrects = e.id)
        AND NOT EXISTS (SELECT FROM logbook_entry u WHERE u.kind = 'undone' AND u.batch = e.batch)
    """
    buckets = f"""
        SELECT e.kind, e.subject, e.place, coalesce(e.vessel, 0), l.level_s, floor(extract(epoch FROM e.device_at) / l.level_s)::bigint * l.level_s,
        min(e.value), max(e.value), round(sum(e.value)::numeric, 6), count(*) {counts} GROUP BY 1, 2, 3, 4, 5, 6 ORDER BY 1, 2, 3, 4, 5, 6
    """
    kept = """
        SELECT kind, subject, place, vessel, level_s, from_s, least, most, round(total::numeric, 6), count
        FROM logbook_bucket WHERE job_id = %s ORDER BY 1, 2, 3, 4, 5, 6
    """
    assert asked(kept, job["id"]) == asked(buckets, job["id"])
    newest = f"""
        SELECT DISTINCT ON (e.kind, e.subject, e.place, coalesce(e.vessel, 0)) e.kind, e.subject, e.place, coalesce(e.vessel, 0), e.value
        {counts} ORDER BY 1, 2, 3, 4, e.device_at DESC, e.id DESC
    """
    assert asked(
        "SELECT kind, subject, place, vessel, value FROM logbook_newest WHERE job_id = %s ORDER BY 1, 2, 3, 4", job["id"]
    ) == asked(newest, job["id"])


def test_a_reading_stands_in_its_month_and_is_the_newest(me: Caller, job: dict[str, Any]) -> None:
    keep(me, job, [reading(0, -3.5), reading(86_400 * 40, -1.0), log_entry(kind="flame", where=None, value=None, look="steady")])
    months = asked("SELECT tableoid::regclass::text, value FROM logbook_reading WHERE job_id = %s ORDER BY at", job["id"])
    assert months == [("logbook_reading_p2026_01", -3.5), ("logbook_reading_p2026_02", -1.0)]
    assert [(s["kind"], s["place"], s["newest"]) for s in all_series(uuid.UUID(job["id"]))] == [("air", "outside", -1.0)]
    all_as_made_anew(job)


def test_a_late_reading_is_not_the_newest(me: Caller, job: dict[str, Any]) -> None:
    keep(me, job, [reading(3600, 5.0)])
    keep(me, job, [reading(0, 1.0)])
    assert all_series(uuid.UUID(job["id"]))[0]["newest"] == 5.0


@settings(max_examples=examples(12, 4), suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.integers(0, 10_000))
def test_whatever_comes_in_whatever_order_the_database_keeps_what_the_log_says(me: Caller, job: dict[str, Any], seed: int) -> None:
    rng = random.Random(seed)
    batches = [str(uuid.UUID(int=rng.getrandbits(128))) for _ in range(2)]
    made = [
        reading(
            rng.uniform(0, 5e6),
            rng.uniform(-10, 60),
            where=rng.choice(["out", "in", "outside"]),
            batch=rng.choice([*batches, None]),
        )
        for _ in range(25)
    ]
    changed = [reading(rng.uniform(0, 5e6), 0.0, where="out", corrects=e["id"]) for e in rng.sample(made, 5)]
    undone = [log_entry(kind="undone", where=None, value=None, as_typed=None, batch=batches[0])] if rng.random() < 0.5 else []
    everything = [*made, *changed, *undone]
    rng.shuffle(everything)
    cut = rng.randrange(len(everything))
    keep(me, job, everything[:cut])
    keep(me, job, everything)
    all_as_made_anew(job)


def test_a_correction_takes_what_it_corrects_out_of_the_chart(me: Caller, job: dict[str, Any]) -> None:
    wrong = reading(0, 610.0 - 400)
    keep(me, job, [wrong, reading(60, 20.0)])
    keep(me, job, [reading(0, 21.0, corrects=wrong["id"])])
    found = window(uuid.UUID(job["id"]), Series("air", place="outside"), BEGUN, BEGUN + timedelta(minutes=5), 300)
    assert (max(found["most"]), sum(found["count"])) == (21.0, 2)
    all_as_made_anew(job)


def test_a_file_taken_back_leaves_no_reading_and_every_entry(me: Caller, job: dict[str, Any]) -> None:
    batch = str(uuid.uuid4())
    keep(me, job, [reading(n, float(n), batch=batch) for n in range(50)])
    keep(me, job, [reading(100, 7.0), log_entry(kind="undone", where=None, value=None, as_typed=None, batch=batch)])
    assert asked("SELECT count(*) FROM logbook_reading WHERE job_id = %s", job["id"]) == [(1,)]
    assert asked("SELECT count(*) FROM logbook_entry WHERE job_id = %s", job["id"]) == [(52,)]
    all_as_made_anew(job)


@pytest.mark.parametrize(("hours", "points"), [(1, 100), (60, 600), (24 * 70, 600)])
def test_a_window_is_what_the_log_says_whichever_pieces_it_reads(
    me: Caller, job: dict[str, Any], hours: float, points: int
) -> None:
    rng = random.Random(3)
    values = [(rng.uniform(0, hours * 3600 - 1), rng.uniform(-20, 60)) for _ in range(800)]
    keep(me, job, [reading(at, v) for at, v in values])
    found = window(uuid.UUID(job["id"]), Series("air", place="outside"), BEGUN, BEGUN + timedelta(hours=hours), points)
    step = found["step_s"]
    by_hand: dict[int, list[float]] = {}
    for at, v in values:
        by_hand.setdefault(int((BEGUN.timestamp() + at) // step), []).append(v)
    assert [round(s / step - 0.5) for s in found["at_s"]] == sorted(by_hand)
    assert found["least"] == [min(by_hand[n]) for n in sorted(by_hand)]
    assert found["most"] == [max(by_hand[n]) for n in sorted(by_hand)]
    assert found["mean"] == pytest.approx([sum(by_hand[n]) / len(by_hand[n]) for n in sorted(by_hand)])
    assert sum(found["count"]) == 800
    assert len(found["at_s"]) <= points * 1.6


@pytest.mark.parametrize(
    "query",
    [
        "begin=2026-01-13T00:00:00Z&end=2026-01-12T00:00:00Z",
        "begin=1926-01-12T00:00:00Z&end=2026-01-12T00:00:00Z",
        "begin=now&end=then",
        "begin=2026-01-12T00:00:00Z&end=2026-01-13T00:00:00Z&points=0",
    ],
)
def test_a_window_that_is_none_is_refused_in_words(me: Caller, job: dict[str, Any], query: str) -> None:
    status, body = me.get(f"/jobs/{job['id']}/window?kind=air&{query}")
    assert status == 422
    assert body["title"]


@pytest.mark.parametrize("table", ["logbook_reading", "logbook_bucket", "logbook_newest", "logbook_level"])
def test_what_the_database_makes_of_the_log_the_application_reads_and_never_writes(db: None, table: str) -> None:
    call_command("plain_role", "ofen_of_a_test", stdout=io.StringIO())
    may = {
        act: asked("SELECT has_table_privilege('ofen_of_a_test', %s, %s)", table, act)[0][0]
        for act in ("SELECT", "INSERT", "UPDATE", "DELETE")
    }
    assert may == {"SELECT": True, "INSERT": False, "UPDATE": False, "DELETE": False}


def weights(hours: list[float], per_hour: float) -> list[dict[str, Any]]:
    return [
        log_entry(at=(BEGUN + timedelta(hours=h)).isoformat(), kind="weight", where=None, value=79 - per_hour / 6 * h, vessel=v)
        for h in hours
        for v in range(1, 7)
    ]


def test_a_job_that_runs_stands_on_the_board_of_its_team_alone(
    me: Caller, stranger: Caller, job: dict[str, Any], depot: dict[str, Any]
) -> None:
    assert me.get("/board") == (200, [])
    keep(me, job, weights([0, 12, 24], 1.5))
    other = me.post("/jobs", {"document": depot | {"name": "Runs out first"}})[1]
    keep(me, other, weights([0, 12, 24], 6.0))
    lines = me.get("/board")[1]
    assert [BoardLine.model_validate(line).model_dump(mode="json") for line in lines] == lines
    assert [line["name"] for line in lines] == ["Runs out first", depot["name"]]
    assert all(line["change_over_at"] and line["gone_quiet"] and line["next"]["code"] == "change_over_due" for line in lines)
    assert stranger.get("/board") == (200, [])
    until = quote((BEGUN + timedelta(days=3)).isoformat())
    stops = me.get(f"/board/day?until={until}")[1]
    assert {s["name"] for s in stops} == {"Runs out first", depot["name"]}
    assert all(i["at_s"] <= (BEGUN + timedelta(days=3)).timestamp() for s in stops for i in s["items"])
    assert stranger.get(f"/board/day?until={until}") == (200, [])
    me.put(f"/jobs/{other['id']}/filed", {"filed": True})
    assert len(me.get("/board")[1]) == 1


def test_the_board_is_few_queries_however_many_jobs(me: Caller, job: dict[str, Any], django_assert_max_num_queries: Any) -> None:
    keep(me, job, weights([0, 12, 24], 1.5))
    one = Job.objects.get(pk=job["id"])
    for n in range(30):
        Job.objects.create(team=one.team, name=f"Copy {n}", logged_at=one.logged_at, change_over_at=one.change_over_at, due=one.due)
    with django_assert_max_num_queries(12):
        assert len(me.get("/board")[1]) == 31


def test_an_overdue_safety_test_holds_back_the_sign_off_and_one_that_is_passed_does_not(
    me: Caller, job: dict[str, Any], run: dict[str, Any]
) -> None:
    def overdue() -> set[str]:
        status, refused = me.sign_off(run)
        assert status == 409
        held = [
            {g["subject"] for g in gates if g["code"] == "safety_test_overdue"}
            for gates in (refused["gates"], me.run_now(job, run)["gates"])
        ]
        # What the server refuses for is what the device shows, and what a report and the job's own sign-off tell.
        assert held[0] == held[1]
        told = Snapshot(Job.objects.get(pk=job["id"])).standing
        in_report = next(r for r in told.runs if r.record.id == run["id"]).gates
        assert {g.subject for g in in_report if g.code == "safety_test_overdue"} == held[0]
        assert next(m for m in told.machines if m.machine == "heater-1").gates == tuple(g["code"] for g in refused["gates"])
        for open_things in (told.open, open_of(Snapshot(Job.objects.get(pk=job["id"])))):
            keys = [o.key.split(".") for o in open_things]
            assert {k[1] for k in keys if k[0] == "overdue" and k[2] == "heater-1"} == held[0]
        return held[0]

    assert overdue() == set()
    keep(me, job, weights([0], 1.5))  # in use since January: the tests of then are due long since
    before = overdue()
    assert {"test_co_alarm", "test_flame_failure", "test_relief_clear"} <= before
    now = datetime.now(UTC).isoformat()
    keep(
        me,
        job,
        [
            log_entry(
                at=now,
                kind="safety_test",
                where=None,
                value=None,
                as_typed=None,
                subject="heater-1",
                test="test_co_alarm",
                look="passed",
            )
        ],
    )
    assert overdue() == before - {"test_co_alarm"}


def test_a_sooty_flame_comes_first_on_the_list_and_the_board_until_a_later_look_clears_it(me: Caller) -> None:
    job = me.post("/jobs", {"document": example("tram-depot")})[1]["id"]
    flame = {"kind": "flame", "subject": "heater-1", "where": None, "value": None, "as_typed": None}
    now = datetime.now(UTC)
    me.log(job, [log_entry(**flame, look="yellow", at=now.isoformat())])
    for lines in (me.get("/jobs")[1], me.get("/board")[1]):
        assert (lines[0]["next"]["code"], lines[0]["next"]["stage"]) == ("flame_sooty", "running")
        assert lines[0]["next"]["words"] == "Tarn 35, indirect-fired: yellow, sooty flame. Shut it down"
    opened = me.get(f"/jobs/{job}/handing-over")[1]["open"]
    assert any(o["key"] == "stop.running.seen.flame_sooty.heater-1" and o["holds"] for o in opened)
    me.log(job, [log_entry(**flame, look="steady", at=(now + timedelta(minutes=5)).isoformat())])
    assert me.get("/jobs")[1][0]["next"]["code"] != "flame_sooty"
    opened = me.get(f"/jobs/{job}/handing-over")[1]["open"]
    assert not any("seen" in o["key"] for o in opened)
