"""The team's instruments: who may keep and try them, the two protocols against their own libraries, and each way in which one goes wrong."""

import asyncio
import os
import socket
import threading
import tty
import uuid
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from datetime import date, timedelta
from typing import Any

import pytest
from django.db import DatabaseError, transaction
from django.utils import timezone
from pymodbus.client import ModbusTcpClient

from instruments import actions
from instruments import reader as reading
from instruments.adapters import LineAdapter, ModbusAdapter, Silent, opened
from instruments.allowed import is_allowed
from instruments.models import Instrument as Kept
from instruments.models import Trial, Watch
from instruments.reader import Reader
from instruments.stand_ins import page
from instruments.stand_ins.fleet import fleet
from instruments.stand_ins.serving import serve
from instruments.stand_ins.world import OWN_FAULTS, StandIn, World
from ofen.commissioning.instruments.shelf import Channel, Instrument, dump, load
from ofen.commissioning.instruments.wire_line import ASK, Said, line_of, parsed, sum_of
from ofen.document.job import load_as_far
from ofen.plan import plan
from teams.models import Person, Team

from ..browser.served import free_ports
from ..conftest import example
from .conftest import Caller, someone

Take = Callable[[], float]


def sheet(**changes: Any) -> dict[str, Any]:
    return {
        "format": "ofen-instrument/1",
        "id": "mano-1",
        "name": "Manometer 1",
        "kind": "manometer",
        "calibrated_on": timezone.now().date().isoformat(),
        "channels": [{"id": "P1", "quantity": "gas_pressure", "unit": "mbar", "low": -20, "high": 100, "resolution": 0.01}],
    } | changes


def trial(**changes: Any) -> dict[str, Any]:
    return {"id": str(uuid.uuid4()), "at": timezone.now().isoformat(), "check": "zero", "passed": True} | changes


@pytest.mark.parametrize(
    ("rules", "link", "address", "allowed"),
    [
        (["127.0.0.0/8:5100-5199"], "line_tcp", "127.0.0.1:5101", True),
        (["127.0.0.0/8:5100-5199"], "line_tcp", "127.0.0.1:5432", False),
        (["127.0.0.0/8:5100-5199"], "line_tcp", "10.1.2.3:5101", False),
        (["127.0.0.0/8:5100-5199"], "line_tcp", "localhost:5101", False),
        (["10.0.0.0/8:502"], "modbus_tcp", "10.1.2.3:502", True),
        (["[::1]/128:502"], "modbus_tcp", "[::1]:502", True),
        (["/dev/ttyUSB*"], "line_serial", "/dev/ttyUSB0", True),
        (["/dev/ttyUSB*"], "line_serial", "/dev/ttyUSB0/../sda", False),
        (["/dev/ttyUSB*"], "line_serial", "/dev/sda", False),
        ([], "line_tcp", "127.0.0.1:5101", False),
        (["nonsense"], "line_tcp", "127.0.0.1:5101", False),
    ],
)
def test_only_what_the_server_names_is_read(rules: list[str], link: str, address: str, allowed: bool, settings: Any) -> None:
    settings.INSTRUMENTS = rules
    assert is_allowed(link, address) is allowed


def test_a_lead_keeps_the_shelf_a_technician_tries_a_stranger_sees_nothing(
    me: Caller, stranger: Caller, nobody: Caller, db: None
) -> None:
    technician, guest = (Caller(someone(r, "Upper valley", r)) for r in ("technician", "guest"))
    assert me.put("/instruments/mano-1", {"sheet": sheet()})[0] == 200
    assert technician.put("/instruments/mano-2", {"sheet": sheet(id="mano-2")})[0] == 403
    status, found = technician.post("/instruments/mano-1/trials", {"trial": trial()})
    assert status == 200
    assert found[0]["overdue"] == []
    assert guest.post("/instruments/mano-1/trials", {"trial": trial()})[0] == 403
    assert [i["key"] for i in guest.get("/instruments")[1]] == ["mano-1"]
    assert stranger.get("/instruments") == (200, [])
    assert stranger.post("/instruments/mano-1/trials", {"trial": trial()})[0] == 404
    assert stranger.call("DELETE", "/instruments/mano-1")[0] == 404
    for path in ("/instruments", "/instruments/live"):
        assert nobody.get(path)[0] == 401
    assert me.call("DELETE", "/instruments/mano-1") == (200, [])
    assert Trial.objects.count() == 1


def test_what_cannot_be_is_refused_at_its_place(me: Caller) -> None:
    for given, path in (
        (sheet(kind="rod"), "kind"),
        (sheet(id="other"), "id"),
        (sheet(link="line_tcp", address="127.0.0.1:5432"), "address"),
        (sheet(link="line_tcp", address="192.0.2.1:5101"), "address"),
    ):
        status, problem = me.put("/instruments/mano-1", {"sheet": given})
        assert status == 422
        assert path in [f["path"] for f in problem["faults"]]
    me.put("/instruments/mano-1", {"sheet": sheet()})
    for wrong, path in ((trial(check="lick"), "check"), (trial(at="today"), "at"), (trial(passed=None), "passed")):
        status, problem = me.post("/instruments/mano-1/trials", {"trial": wrong})
        assert (status, path in [f["path"] for f in problem["faults"]]) == (422, True)


def test_only_the_last_trial_of_each_thing_counts_however_many_there_are(me: Caller) -> None:
    for key in ("mano-1", "mano-2"):
        me.put(f"/instruments/{key}", {"sheet": sheet(id=key)})
    old = (timezone.now() - timedelta(hours=20)).isoformat()
    me.post("/instruments/mano-2/trials", {"trial": trial(at=old)})
    for _ in range(5):
        me.post("/instruments/mano-1/trials", {"trial": trial()})
    me.post("/instruments/mano-1/trials", {"trial": trial(passed=False)})
    first, second = me.get("/instruments")[1]
    assert [t["check"] for t in first["trials"]] == ["zero"]
    assert (first["overdue"], second["trials"][0]["at"]) == ([], old)
    assert any("not zeroed" in w for w in second["overdue"])


def test_trials_only_grow_and_count_once(me: Caller) -> None:
    me.put("/instruments/mano-1", {"sheet": sheet(calibrated_on="2020-01-01")})
    one = trial(check="calibration")
    before = me.get("/instruments")[1][0]["overdue"]
    assert any("calibration ended" in w for w in before)
    for _ in range(2):
        found = me.post("/instruments/mano-1/trials", {"trial": one})[1]
    assert len(found[0]["trials"]) == 1
    assert not any("calibration" in w for w in found[0]["overdue"])
    with pytest.raises(DatabaseError, match="only grows"), transaction.atomic():
        Trial.objects.update(body={})


@contextmanager
def served(world: World, page_port: int | None = None) -> Iterator[None]:
    """The stand-ins of a world, served from a thread of their own."""
    loop, up = asyncio.new_event_loop(), threading.Event()

    async def main() -> None:
        ready = asyncio.Event()
        task = asyncio.ensure_future(serve(world, page_port, ready))
        await asyncio.wait([task, asyncio.ensure_future(ready.wait())], return_when=asyncio.FIRST_COMPLETED)
        up.set()
        await task

    main_task: Any = None

    def run() -> None:
        nonlocal main_task
        asyncio.set_event_loop(loop)
        main_task = loop.create_task(main())
        try:
            loop.run_until_complete(main_task)
        except asyncio.CancelledError:
            pass
        finally:
            left = asyncio.all_tasks(loop)
            for task in left:
                task.cancel()
            loop.run_until_complete(asyncio.gather(*left, return_exceptions=True))
            loop.close()

    thread = threading.Thread(target=run, daemon=True)
    thread.start()
    assert up.wait(10)
    try:
        yield
    finally:
        loop.call_soon_threadsafe(main_task.cancel)
        thread.join(10)


@pytest.fixture
def house() -> World:
    world = World(plan=plan(load_as_far(example("seedling-house"))[0]))
    world.stand_ins = fleet(world.plan, free_ports(16), date(2026, 11, 28))
    return world


def stand_in(world: World, id: str) -> StandIn:
    return next(s for s in world.stand_ins if s.instrument.id == id)


def test_the_line_protocol_over_the_network_shows_the_plant(house: World) -> None:
    house.set_running("generator-1", 1.0)
    planned = house.plan.supplies[0].plant.gas
    assert planned
    with served(house):
        adapter = LineAdapter(stand_in(house, "mano-generator-1").instrument)
        said = adapter.read()["P1"]
        adapter.close()
    # The set alone at full load: between its full-load pressure with the heater on and lock-up; a cold instrument is 1 % off.
    running, standing = planned.design["inlet-2"].running_in_pa, planned.design["inlet-2"].standing_in_pa
    assert running and standing and said.number
    assert running * 0.98 <= said.number * 100 <= standing * 1.02
    assert said.unit == "mbar"


def test_modbus_against_its_own_library_both_ways(house: World) -> None:
    house.set_running("generator-1", 0.5)
    one = stand_in(house, "panel-generator-1")
    host, _, port = one.instrument.address.rpartition(":")
    with served(house):
        # The library's own client reads what the stand-in serves ...
        client = ModbusTcpClient(host, port=int(port))
        assert client.connect()
        answer = client.read_input_registers(0, count=2 * len(one.instrument.channels), device_id=1)
        first = client.convert_from_registers(answer.registers[:2], client.DATATYPE.FLOAT32)
        # ... and our adapter reads what the library's own server gives, the same.
        adapter = ModbusAdapter(one.instrument)
        said = adapter.read()
        # A register that is not there is told, not taken.
        beyond = opened(
            Instrument(
                id="x",
                name="x",
                kind="set_controller",
                link="modbus_tcp",
                address=one.instrument.address,
                channels=(
                    Channel(id="V", name="V", quantity="voltage", unit="V", low=0, high=600, resolution=0.1, register_at=900),
                ),
            )
        )
        assert beyond.read()["V"].number is None
        for a in (client, adapter, beyond):
            a.close()
    assert said["l1-l2"].number == pytest.approx(float(first), rel=0.01)  # type: ignore[arg-type]  # a float it is
    assert 225 < float(first) < 245  # type: ignore[arg-type]  # the same


def test_the_line_protocol_over_a_serial_port() -> None:
    ours, theirs = os.openpty()
    tty.setraw(ours)
    instrument = load(sheet(link="line_serial", address=os.ttyname(theirs)))

    def answer() -> None:
        assert os.read(ours, 64) == ASK.encode()
        os.write(ours, line_of({"P1": (27.31, "mbar")}, 0.1).encode())

    thread = threading.Thread(target=answer)
    thread.start()
    adapter = LineAdapter(instrument)
    assert adapter.read()["P1"].number == 27.31
    thread.join(5)
    # Nothing comes any more: it is silent, and says so.
    with pytest.raises(Silent):
        adapter.read()
    os.close(ours)
    os.close(theirs)


def shelved(world: World, team: Team, by: Person) -> None:
    for one in world.stand_ins:
        Kept.objects.create(team=team, key=one.instrument.id, sheet=dump(one.instrument), put_by=by)


@pytest.fixture
def seconds(monkeypatch: pytest.MonkeyPatch) -> list[float]:
    """The reader's own seconds, a second apart at each turn; it waits as long as an answer takes."""
    clock = [100.0]

    class Time:
        monotonic = staticmethod(lambda: clock[0])

    monkeypatch.setattr(reading, "time", Time)
    # Nor is how fast this machine is any matter of these tests: what was read stays new, who looked looks on.
    monkeypatch.setattr(reading, "PATIENCE_S", 10.0)
    monkeypatch.setattr(reading, "LOOKED_S", 3600)
    monkeypatch.setattr(actions, "ALIVE_S", 3600.0)
    return clock


def turned(reader: Reader, clock: list[float], times: int) -> None:
    for _ in range(times):
        clock[0] += 1.0
        reader.turn()


SAID = {"gone": "silent", "rubbish": "rubbish", "other_unit": "other_unit", "old": "old", "beyond": "beyond"}


def test_every_way_in_which_an_instrument_goes_wrong_is_told_and_it_comes_back(
    me: Caller, house: World, seconds: list[float]
) -> None:
    assert me.person
    shelved(house, Team.objects.get(name="Upper valley"), me.person)
    one = stand_in(house, "mano-generator-1")
    reader = Reader()
    # Nobody looks: nothing is read.
    assert reader.turn() == 0
    assert me.get("/instruments/live")[1]["alive"] is False
    with served(house):
        turned(reader, seconds, 6)
        shown = me.get("/instruments/live")[1]
        assert shown["alive"]
        good = shown["values"]["mano-generator-1"]["P1"]
        assert (good["fault"], good["still"]) == ("", True)
        assert good["settled"] == pytest.approx(good["value"], rel=0.01)
        for wrong, fault in SAID.items():
            assert wrong in OWN_FAULTS
            one.wrong = wrong
            turned(reader, seconds, 4)
            shown = me.get("/instruments/live")[1]["values"]
            told = shown["mano-generator-1"]["P1"]
            assert (told["fault"], told["value"], told["still"]) == (fault, None, False)
            assert told["say"]
            # It takes nothing else down.
            assert shown["volts-generator-1"]["hz"]["fault"] == ""
        one.wrong = ""
        turned(reader, seconds, 6)
        assert me.get("/instruments/live")[1]["values"]["mano-generator-1"]["P1"]["still"]
    # All of them gone at once.
    turned(reader, seconds, 3)
    assert {c["fault"] for i in me.get("/instruments/live")[1]["values"].values() for c in i.values()} == {"silent"}
    reader.close()


def test_another_team_sees_none_of_it(me: Caller, stranger: Caller, house: World, seconds: list[float]) -> None:
    assert me.person
    shelved(house, Team.objects.get(name="Upper valley"), me.person)
    me.get("/instruments/live")
    stranger.get("/instruments/live")
    reader = Reader()
    with served(house):
        turned(reader, seconds, 1)
    reader.close()
    assert me.get("/instruments/live")[1]["values"]
    assert stranger.get("/instruments/live")[1]["values"] == {}
    assert Watch.objects.count() == 2


def test_a_sheet_whose_address_is_no_longer_allowed_is_not_read(
    me: Caller, house: World, seconds: list[float], settings: Any
) -> None:
    assert me.person
    shelved(house, Team.objects.get(name="Upper valley"), me.person)
    me.get("/instruments/live")
    settings.INSTRUMENTS = []
    reader = Reader()
    with served(house):
        turned(reader, seconds, 1)
    reader.close()
    told = me.get("/instruments/live")[1]["values"]["mano-generator-1"][""]
    assert (told["fault"], told["value"]) == ("silent", None)
    assert "Its address is not allowed" in told["say"]


def test_one_that_breaks_or_cannot_be_read_takes_no_other_down(me: Caller, house: World, seconds: list[float]) -> None:
    assert me.person
    team = Team.objects.get(name="Upper valley")
    shelved(house, team, me.person)
    spoilt = sheet(id="spoilt", link="line_tcp", address="127.0.0.1:5199") | {"kind": "divining_rod"}
    Kept.objects.create(team=team, key="spoilt", sheet=spoilt, put_by=me.person)
    me.get("/instruments/live")
    reader = Reader()
    with served(house):
        turned(reader, seconds, 1)
        broken = next(line for line in reader._lines.values() if line.instrument.id == "mano-generator-1")

        def breaks() -> Any:
            raise ZeroDivisionError

        broken.adapter.read = breaks  # type: ignore[method-assign]  # broken on purpose
        turned(reader, seconds, 2)
    reader.close()
    shown = me.get("/instruments/live")[1]["values"]
    assert shown["mano-generator-1"]["P1"]["fault"] == "silent"
    assert shown["spoilt"][""]["fault"] == "silent"
    assert "spoilt" not in [i["key"] for i in me.get("/instruments")[1]]
    assert "mano-generator-1" in [i["key"] for i in me.get("/instruments")[1]]
    assert shown["volts-generator-1"]["hz"]["fault"] == ""


HOSTILE = [
    Said(1.0, unit="m\0bar"),
    Said(float("nan"), text="\0" * 400),
    Said(float("inf"), unit="\ud800"),
    Said(1e308, age_s=float("nan")),
]


@pytest.mark.parametrize("said", HOSTILE, ids=["NUL in a unit", "no number", "without end", "an age that is none"])
def test_whatever_one_sends_ends_nobodys_reading(
    me: Caller, house: World, seconds: list[float], said: Said, monkeypatch: Any
) -> None:
    assert me.person
    shelved(house, Team.objects.get(name="Upper valley"), me.person)
    me.get("/instruments/live")
    reader = Reader()
    with served(house):
        turned(reader, seconds, 1)
        hostile = next(line for line in reader._lines.values() if line.instrument.id == "mano-generator-1")
        told = {c.id: said for c in hostile.instrument.channels}
        monkeypatch.setattr(hostile.adapter, "read", lambda: told)
        turned(reader, seconds, 2)
    reader.close()
    shown = me.get("/instruments/live")[1]["values"]
    assert "mano-generator-1" in shown
    assert shown["volts-generator-1"]["hz"]["fault"] == ""


def test_a_line_with_characters_that_are_no_text_is_told_as_far_as_it_can_be() -> None:
    body = "R;P1=12.5 m\0bar;age=0.1 s"
    found = parsed(f"{body}*{sum_of(body)}\n", ["P1"])
    assert (found["P1"].number, found["P1"].unit) == (12.5, "m?bar")


def test_a_turn_that_fails_is_not_the_last(db: None, monkeypatch: Any) -> None:
    turns: list[int] = []

    class Failing:
        def turn(self) -> int:
            turns.append(1)
            raise ZeroDivisionError

        def close(self) -> None:
            pass

    monkeypatch.setattr(reading, "Reader", Failing)
    monkeypatch.setattr(reading.time, "sleep", lambda seconds: None)
    reading.run(turns=3)
    assert len(turns) == 3


def test_one_reader_at_a_time(db: None) -> None:
    assert reading.is_the_only_one()


@pytest.mark.parametrize(
    ("given", "words"),
    [
        ({"set": "running", "at": "generator-1", "size": "100"}, ""),
        ({"set": "plant", "at": "supply-1", "kind": "starved_regulator", "size": "35,5"}, ""),
        ({"set": "instrument", "at": "mano-generator-1", "kind": "drift"}, ""),
        ({"set": "running", "at": "generator-1", "size": "lots"}, "a number from 0 to 100"),
        ({"set": "running", "at": "generator-1", "size": "101"}, "a number from 0 to 100"),
        ({"set": "running", "at": "generator-1", "size": "nan"}, "a number from 0 to 100"),
        ({"set": "running", "at": "nobody", "size": "10"}, "no such thing"),
        ({"set": "plant", "at": "supply-1", "kind": "gremlin", "size": "10"}, "no such thing"),
        ({"set": "instrument", "at": "mano-generator-1", "kind": "sings"}, "no such thing"),
        ({}, "no such thing"),
    ],
)
def test_the_page_sets_what_there_is_and_says_what_there_is_not(house: World, given: dict[str, str], words: str) -> None:
    assert words in page.told(house, given) if words else page.told(house, given) == ""
    assert "Stand-ins" in page.drawn(house)


def asked(port: int, head: str, body: str = "") -> str:
    with socket.create_connection(("127.0.0.1", port), 5) as line:
        line.sendall(f"{head}\r\nContent-Length: {len(body)}\r\n\r\n{body}".encode())
        found = b""
        while piece := line.recv(65536):
            found += piece
    return found.decode()


def test_the_page_is_set_from_this_machine_only(house: World) -> None:
    port = free_ports(24) + 23
    with served(house, port):
        form = "set=running&at=generator-1&size=40"
        host = f"Host: 127.0.0.1:{port}"
        assert "200 OK" in asked(port, f"GET / HTTP/1.1\r\n{host}")
        assert "303" in asked(port, f"POST /set HTTP/1.1\r\n{host}", form)
        assert "403" in asked(port, f"POST /set HTTP/1.1\r\n{host}\r\nOrigin: http://elsewhere.example", form.replace("40", "90"))
        assert "403" in asked(port, "POST /set HTTP/1.1\r\nHost: elsewhere.example", form.replace("40", "90"))
        assert "400" in asked(port, f"POST /set HTTP/1.1\r\n{host}", "set=running&at=x&size=1")
    assert house.burning == {"generator-1": 0.4}


def test_an_instrument_drifts_warms_up_and_rests_at_nought(house: World) -> None:
    one = stand_in(house, "mano-generator-1")
    channel = one.instrument.channels[0]
    house.turn(0.0)
    cold, warm = house.shown(one, channel, 0.0), house.shown(one, channel, 300.0)
    # One percent off when it is switched on, the noise of a step aside.
    assert cold / warm == pytest.approx(1.01, abs=0.003)
    one.wrong = "drift"
    assert house.shown(one, channel, 300.0) / warm == pytest.approx(1.3, abs=0.01)
    volts = stand_in(house, "volts-generator-1")
    assert abs(house.shown(volts, volts.instrument.channels[0], 300.0)) < 1
