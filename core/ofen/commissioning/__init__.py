"""Procedures and their runs: steps, events, joints, bypasses, instruments."""
