"""The small page on which the world of the stand-ins is set: what runs, what is wrong with the plant, what with an instrument."""

from __future__ import annotations

import asyncio
import contextlib
import time
from html import escape
from urllib.parse import parse_qs

from ofen.figures.quantities import significant
from ofen.plant.faults import FAULTS

from .world import OWN_FAULTS, World

LARGEST = 64 * 1024
HEAD = """<!doctype html><html lang="en"><meta charset="utf-8"><title>Stand-ins</title><style>
body{font:15px/1.4 sans-serif;background:#F5F1E8;color:#1E1B18;margin:1.5rem;max-width:60rem}h1{font-size:1.3rem}h2{font-size:1.05rem;border-bottom:1.5px solid #2A2622}
form{display:flex;gap:.6rem;align-items:center;border-bottom:1px solid #CFC7B8;padding:.3rem 0}form span{flex:1}input,select,button{font:inherit;padding:.25rem .5rem}input{width:5rem}
td{padding:.15rem .8rem .15rem 0;border-bottom:1px solid #CFC7B8}.n{text-align:right;font-variant-numeric:tabular-nums}.w{color:#A03412}</style>
<h1>Stand-ins: what they measure</h1><p>Made by the plant of this job. Nothing here is a real instrument.</p>"""


async def serve(world: World, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
    """Answer one request: the page, or a form of it."""
    with contextlib.suppress(ConnectionError, asyncio.IncompleteReadError, asyncio.LimitOverrunError, ValueError):
        head = (await reader.readuntil(b"\r\n\r\n")).decode("latin-1")
        method, path = head.split(" ", 2)[:2]
        host = next((line.split(":", 1)[1].strip() for line in head.split("\r\n") if line.lower().startswith("host:")), "")
        length = next((int(line.split(":")[1]) for line in head.lower().split("\r\n") if line.startswith("content-length:")), 0)
        body = (await reader.readexactly(min(length, LARGEST))).decode("utf-8", "replace")
        # Only who is on this very machine sets it, by its own page: another site's form comes with another origin.
        origin = next((line.split(":", 1)[1].strip() for line in head.split("\r\n") if line.lower().startswith("origin:")), "")
        if host.rpartition(":")[0] not in ("127.0.0.1", "localhost") or (origin and origin != f"http://{host}"):
            _send(writer, "403 Forbidden", "Only from this machine, by its own page.")
        elif method == "POST" and path == "/set":
            fault = told(world, {k: v[-1] for k, v in parse_qs(body).items()})
            _send(writer, "400 Bad Request" if fault else "303 See Other", fault, "" if fault else "Location: /\r\n")
        else:
            _send(writer, "200 OK", drawn(world))
        await writer.drain()
    writer.close()


def _send(writer: asyncio.StreamWriter, status: str, body: str, head: str = "") -> None:
    data = body.encode()
    writer.write(
        f"HTTP/1.1 {status}\r\n{head}Content-Type: text/html; charset=utf-8\r\nContent-Length: {len(data)}\r\nConnection: close\r\n\r\n".encode()
        + data
    )


def told(world: World, given: dict[str, str]) -> str:
    """Set what a form says; what is wrong with it, "" nothing."""
    try:
        size = float(given.get("size", "0").replace(",", ".")) / 100
    except ValueError:
        return "Write a number from 0 to 100."
    if not 0 <= size <= 1:
        return "Write a number from 0 to 100."
    at, kind = given.get("at", ""), given.get("kind", "")
    if given.get("set") == "running" and at in world.plan.placed.names:
        world.set_running(at, size)
    elif given.get("set") == "plant" and any((at, kind) == (id, k) for id, _, k in world.places()):
        world.set_wrong(kind, at, size)
    elif (
        given.get("set") == "instrument"
        and kind in OWN_FAULTS
        and (one := next((s for s in world.stand_ins if s.instrument.id == at), None))
    ):
        one.wrong = kind
        # What drifts begins to now.
        one.on_since = time.monotonic() if kind == "drift" else one.on_since
    else:
        return "There is no such thing here."
    return ""


def drawn(world: World) -> str:
    """Return the page as it stands."""
    now = time.monotonic()
    rows = [HEAD, "<h2>What runs, in percent of its full input</h2>"]
    rows += [
        _form("running", id, "", name, f"{100 * world.burning.get(id, 0.0):.0f}") for id, name in world.plan.placed.names.items()
    ]
    rows.append("<h2>What is wrong with the plant, in percent</h2>")
    for id, name, kind in world.places():
        size = world.wrong.get((kind, id), 0.0)
        rows.append(_form("plant", id, kind, f"{name}: {FAULTS[kind][0][0].lower()}{FAULTS[kind][0][1:]}", f"{100 * size:.0f}"))
    rows.append("<h2>Instruments</h2>")
    for one in world.stand_ins:
        shown = ", ".join(f"{c.id} {significant(world.shown(one, c, now))} {c.unit}" for c in one.instrument.channels)
        options = "".join(
            f'<option value="{k}"{" selected" if k == one.wrong else ""}>{escape(w)}</option>' for k, w in OWN_FAULTS.items()
        )
        i = one.instrument
        rows.append(
            f'<form method="post" action="/set"><span>{escape(i.name)} <small>{escape(i.address)}</small><br>{escape(shown)}</span><input type="hidden" name="set" value="instrument">'
            f'<input type="hidden" name="at" value="{escape(i.id)}"><select name="kind" aria-label="{escape(i.name)}">{options}</select><button>Set</button></form>'
        )
    return "".join(rows)


def _form(what: str, at: str, kind: str, words: str, size: str) -> str:
    mark = ' class="w"' if what == "plant" and size != "0" else ""
    return (
        f'<form method="post" action="/set"><span{mark}>{escape(words)}</span><input type="hidden" name="set" value="{what}"><input type="hidden" name="at" value="{escape(at)}">'
        f'<input type="hidden" name="kind" value="{escape(kind)}"><input name="size" value="{size}" inputmode="decimal" aria-label="{escape(words)}"><button>Set</button></form>'
    )
