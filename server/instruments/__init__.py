"""Instruments of a team: the shelf, the adapters that read them, the reader, and their stand-ins."""
