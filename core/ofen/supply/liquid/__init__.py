"""The ways of liquid fuel."""
