"""Which life of the database this is."""

import uuid

from django.db import models


class Epoch(models.Model):
    """The mark of one life of the database: after a restore to an older moment it is another, and every device offers again what it holds."""

    mark = models.UUIDField(default=uuid.uuid4, editable=False)
    since = models.DateTimeField(auto_now_add=True)

    @classmethod
    def now(cls) -> str:
        """Return the mark of today."""
        self = cls.objects.order_by("-pk").first() or cls.objects.create()
        return str(self.mark)
