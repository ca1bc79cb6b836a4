"""The drawing over the wire: what a move changes, and the drawing as DXF, for its team alone."""

import io
from typing import Any

from ezdxf.filemanagement import read

from tests.conftest import example

from .conftest import Caller


def test_a_move_on_the_drawing_is_told_as_edits(me: Caller) -> None:
    document = example("canvas-hall")
    status, edits = me.post("/ask/moved", {"document": document, "id": "generator-1", "by": [1.5, -0.5]})
    assert status == 200
    # It stood 8 m out from the right wall, 3 m along it.
    assert {e["path"]: e["value"] for e in edits} == {
        "siting.places[0].wall": "right",
        "siting.places[0].along_m": 2.5,
        "siting.places[0].wall_m": 9.5,
    }
    # A heater that shared its place gets one of its own.
    (edit,) = me.post("/ask/moved", {"document": document, "id": "heater-1", "by": [0.0, 2.0]})[1]
    assert edit["path"] == "siting.places[1]"
    assert edit["value"]["id"] == "heater-1"
    assert edit["value"]["wall"] == "back"
    for wrong in ({"id": "nobody", "by": [1, 1]}, {"id": "heater-1", "by": [1]}, {"id": "heater-1", "by": [1, 1e9]}):
        status, problem = me.post("/ask/moved", {"document": document} | wrong)
        assert status == 422, problem


def test_the_drawing_goes_out_as_dxf_to_its_team_alone(me: Caller, stranger: Caller) -> None:
    job = me.post("/jobs", {"document": example("canvas-hall")})[1]
    status, body = me.get(f"/jobs/{job['id']}/drawings/site.dxf")
    assert status == 200
    drawing = read(io.StringIO(body.decode()))
    assert not drawing.audit().errors
    layers = {e.dxf.layer for e in drawing.modelspace()}
    assert {"building", "heater", "generator", "vessels", "ring", "opening", "duct"} <= layers
    hall = next(e for e in drawing.modelspace() if e.dxf.layer == "building" and e.dxftype() == "LWPOLYLINE")
    assert {tuple(p[:2]) for p in hall.get_points()} == {(0, 0), (12, 0), (12, 7.5), (0, 7.5)}
    assert stranger.get(f"/jobs/{job['id']}/drawings/site.dxf")[0] == 404


def test_an_empty_job_has_an_empty_drawing(me: Caller) -> None:
    job: dict[str, Any] = me.post("/jobs", {"document": {"format": "ofen-job/2", "name": "Bare"}})[1]
    status, body = me.get(f"/jobs/{job['id']}/drawings/site.dxf")
    assert status == 200
    assert len(read(io.StringIO(body.decode())).modelspace()) == 0
