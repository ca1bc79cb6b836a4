"""The rules and computation of Ofen: pure Python, standard library only, no clock, no network."""

__version__ = "0.22.0"
