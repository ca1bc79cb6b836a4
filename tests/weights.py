"""How long the files of tests take on one core, roughly: the long ones begin first, and a quick check knows what fits into its time."""

# Measured alone; a file that is not here takes less than a second or two.
SECONDS: dict[str, float] = {
    "browser.test_no_signal": 111,
    "browser.test_bench": 108,
    "browser.test_procedures": 44,
    "browser.test_faults": 41,
    "browser.test_one_job": 38,
    "browser.test_restore": 36,
    "browser.test_at_the_unit": 32,
    "browser.test_starts": 28,
    "browser.test_handing_over": 25,
    "engine.test_parity": 25,
    "browser.test_running": 20,
    "server.test_fuzz": 15,
    "browser.test_siting": 15,
    "browser.test_supply": 14,
    "server.test_handing_over": 14,
    "browser.test_every_view": 13,
    "browser.test_safety": 12,
    "core.test_never_together": 12,
    "server.test_bounds": 11,
    "browser.test_manners": 10,
    "server.test_access": 9,
    "browser.test_need_and_equipment": 9,
    "core.test_limits": 8,
    "server.test_handover": 8,
    "server.test_running_it": 6,
    "core.test_extremes": 6,
    "browser.test_machines": 6,
    "server.test_fieldwork": 5,
    "server.test_poison": 5,
    "server.test_outbox": 4,
    "server.test_job_files": 4,
    "server.test_jobs": 3,
    "server.test_instruments": 3,
    "server.test_logbook": 2,
    "core.test_starts": 2,
    "server.test_papers": 2,
    "core.test_assumed": 2,
    "core.test_hard_questions": 2,
    "core.test_need_power": 2,
}
USUAL_S = 1.0


def seconds_of(module: str) -> float:
    """Return how long a module of tests takes, by its dotted name."""
    return SECONDS.get(module.removeprefix("tests."), USUAL_S)
