"""A change-over by the book: the log entry that its run makes."""

from __future__ import annotations

from ..commissioning.procedure import Procedure
from ..commissioning.state import RunState
from ..commissioning.steps.base import SATISFIED
from ..commissioning.steps.choose import ChooseState
from ..commissioning.steps.read import ReadState
from .kinds import ChangedOver

PURPOSE = "change_over"


def done_at(procedure: Procedure, run: RunState, purpose: str) -> str | None:
    """Return when the last step of a run of a purpose was done; None for another purpose, or while a step is open.

    Arguments: procedure; run; purpose, one of a procedure.
    """
    if procedure.purpose != purpose or any(s.status not in SATISFIED for s in run.states.values()):
        return None
    return max((st.at for st in run.states.values() if st.at), default=None)


def entry_of(procedure: Procedure, run: RunState, supply: str) -> dict[str, object] | None:
    """Return the entry of a run by which a vessel was changed over, without its id; None while it is not done or nothing was weighed in.

    Arguments: procedure; run; supply, the id of the one whose vessel it is.
    Source: common practice: weights in and out belong to the vessel, not to the hour.
    """
    last = done_at(procedure, run, PURPOSE)
    if last is None:
        return None
    weights = {
        s: st for s in ("weight_out", "weight_in") if isinstance(st := run.states.get(s), ReadState) and st.value is not None
    }
    if "weight_in" not in weights:
        return None
    bank = run.states.get("bank")
    out = weights.get("weight_out")
    return {
        "kind": ChangedOver.KIND,
        "at": last,
        "subject": supply,
        "bank": bank.choice if isinstance(bank, ChooseState) and bank.choice else "only",
        "out_kg": None if out is None else out.value,
        "value": weights["weight_in"].value,
        "as_typed": weights["weight_in"].as_typed,
    }
