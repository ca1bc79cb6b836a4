"""Repeat what was tried against the server, line by line, and print what held: `python -m tools.attacked` under `bin/test`'s database."""

import sys
import tempfile
import xml.etree.ElementTree as Tree
from collections.abc import Iterable
from pathlib import Path

import pytest

SERVER = "tests/server"
# What was tried, and the tests that try it again.
LINES: dict[str, tuple[str, ...]] = {
    "1.1 a backup under writes comes back": ("test_running_it.py::test_a_backup_of_a_living_system",),
    "1.2 small files that hold much": ("test_small_files.py",),
    "1.3 what an instrument sends ends nobody's reading": ("test_instruments.py::test_whatever_one_sends", "test_running_it.py::test_a_service_that_is_killed"),
    "1.4 nobody is pulled into a team": ("test_access.py::test_nobody_is_of_a_team", "test_access.py::test_an_invitation_is_worth", "test_access.py::test_who_has_left_the_team"),
    "1.5 an offer ends with the right of its maker": ("test_handing_over.py::test_an_offer_holds", "test_handing_over.py::test_of_two_who_take"),
    "1.6 a killed press, turns of teams, the database gone": ("test_handing_over.py::test_teams_take_turns", "test_handing_over.py::test_one_left_by_a_press", "test_handing_over.py::test_one_that_is_being_made", "test_running_it.py::test_a_press_that_is_killed", "test_running_it.py::test_the_press_outlives"),
    "1.7 whatever comes in, no 5xx": ("test_fuzz.py", "test_imports.py::test_the_first_and_the_last_year", "test_imports.py::test_a_reading_that_makes_no_sense"),
    "1.8 a document at its bounds has a plan": ("../core/test_at_their_bounds.py",),
    "1.9 the database away, tries to sign in, what only grows": ("test_bounds.py", "test_access.py::test_failed_tries", "test_running_it.py::test_the_role_of_the_application", "test_starts.py::test_a_title"),
    "1.11 a forged seal is not vouched for": ("../core/test_whole_job.py::test_a_forged_seal", "test_handing_over.py::test_a_job_is_signed_off_once"),
}  # fmt: skip


def main() -> int:
    """Run the tests of every line and print a table; 1 where one did not hold."""
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "ran.xml"
        paths = sorted({str((Path(SERVER) / t.split("::")[0]).resolve()) for tests in LINES.values() for t in tests})
        pytest.main(["-q", "-n", "2", "-p", "no:cacheprovider", f"--junitxml={file}", *paths])
        ran = list(Tree.parse(file).iter("testcase"))
    print("\n| what was tried | tests | held | seconds |\n|---|---|---|---|")
    held_all = True
    for words, tests in LINES.items():
        own = [case for case in ran if any(_is_of(case, test) for test in tests)]
        failed = [case for case in own if case.find("failure") is not None or case.find("error") is not None]
        held_all = held_all and bool(own) and not failed
        print(f"| {words} | {len(own)} | {'yes' if own and not failed else 'NO'} | {_seconds(own):.0f} |")
    return 0 if held_all else 1


def _is_of(case: Tree.Element, test: str) -> bool:
    file, _, name = test.partition("::")
    return case.get("classname", "").endswith(Path(file).stem) and case.get("name", "").startswith(name)


def _seconds(cases: Iterable[Tree.Element]) -> float:
    return sum(float(case.get("time", 0)) for case in cases)


if __name__ == "__main__":
    sys.exit(main())
