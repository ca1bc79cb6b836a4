"""The seal of a signed run: a chain of digests over its events, each holding the one before, so that a change of any shows."""

from __future__ import annotations

import json
from collections.abc import Iterable, Sequence
from hashlib import sha256
from typing import Any

from .clock import order_ms


def chain(procedure_digest: str, events: Sequence[dict[str, object]]) -> dict[str, Any]:
    """Return the chain over the events of a run: one link each, in the order in which they stand, and its head.

    Arguments: procedure_digest, from which it hangs; events as plain data, in the order that is sealed.
    Source: a hash chain by SHA-256 (FIPS 180-4).
    """
    links, last = [], procedure_digest
    for event in events:
        last = _link(last, event)
        links.append({"id": str(event.get("id")), "digest": last})
    return {"root": procedure_digest, "links": links, "head": last}


def ordered(events: Iterable[dict[str, object]]) -> list[dict[str, Any]]:
    """Return the events of a run in the order in which they count, those taken back among them.

    Arguments: events as plain data, each of which can be read.
    Source: `Event.order`.
    """
    return sorted(events, key=lambda e: (order_ms(e["at"], e.get("after_ms")), e["id"]))


def broken(sealed: Any) -> str:
    """Return what of a sealed record is not as it was sealed, in words; "" where it is whole.

    Arguments: sealed, the evidence of a sign-off, with its `procedure`, `events` and `chain`.
    """
    try:
        kept, events, root = sealed["chain"], sealed["events"], sealed["procedure"]["digest"]
        links = chain(root, events)
        if kept["root"] != root:
            return "the procedure is not the one it was sealed with"
        for n, (was, now) in enumerate(zip(kept["links"], links["links"], strict=False)):
            if was != now:
                return f"event {n + 1} of {len(kept['links'])}, {was['id']}, is not as it was sealed"
        if len(kept["links"]) != len(links["links"]):
            return f"{len(kept['links'])} events were sealed, {len(links['links'])} are here"
        return "" if kept["head"] == links["head"] else "the head of the chain is another"
    except (KeyError, TypeError, AttributeError):
        return "this is no sealed record with a chain"


def _link(before: str, event: Any) -> str:
    text = json.dumps(event, ensure_ascii=False, sort_keys=True, separators=(",", ":"))
    return sha256(f"{before}\n{text}".encode()).hexdigest()
