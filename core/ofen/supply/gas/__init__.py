"""The ways of gas: regulators, lines, inlets."""
