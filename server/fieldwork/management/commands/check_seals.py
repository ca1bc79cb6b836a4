"""Whether every signed run is as it was sealed: the chain over its events is made again and held against the one that was kept."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError

from fieldwork.models import SignOff
from ofen.commissioning import seal


class Command(BaseCommand):
    """Check the seals of all sign-offs, or of those of one job."""

    help = __doc__

    def add_arguments(self, parser: Any) -> None:
        """Take the id of a job."""
        parser.add_argument("job", nargs="?", help="id of one job; without it every job")

    def handle(self, *args: Any, **options: Any) -> None:
        """Check each and say which is broken, and where."""
        sign_offs = SignOff.objects.select_related("run").order_by("at")
        if options["job"]:
            sign_offs = sign_offs.filter(run__job=options["job"])
        broken = whole = before = 0
        for sign_off in sign_offs.iterator():
            if "chain" not in sign_off.sealed:
                before += 1
                continue
            words = seal.broken(sign_off.sealed) or _beside(sign_off)
            broken, whole = broken + bool(words), whole + (not words)
            if words:
                self.stdout.write(f"{sign_off.run_id}: {words}")
        self.stdout.write(f"{whole} whole, {broken} broken, {before} signed before seals were chained")
        if broken:
            raise CommandError("A seal is broken.")


def _beside(sign_off: SignOff) -> str:
    """What of the events kept beside the seal is not what was sealed."""
    sealed = {e["id"]: e for e in sign_off.sealed["events"]}
    kept = {str(e.pk): e.body for e in sign_off.run.events.all()}
    other = sorted(id for id in sealed.keys() | kept.keys() if sealed.get(id) != kept.get(id))
    return f"event {other[0]} beside the seal is not the one that was sealed" if other else ""
