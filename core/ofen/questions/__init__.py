"""What the core is asked: each question declared once as a pair of dataclasses in the room it belongs to."""
