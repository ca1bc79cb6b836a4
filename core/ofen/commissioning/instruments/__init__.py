"""Instruments: what they are, whether they can be trusted today, and what they say on the wire. No input or output."""
