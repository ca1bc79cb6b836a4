"""What tells that a job changed: its document, its commissioning or its log."""

from django.dispatch import Signal

# Sent with `job`, within the transaction that changes it.
changed = Signal()
