"""Pipe laws, fuels, air, vaporizing, tanks and conductors, by field: no judgement, and nothing of a job."""
