"""Fuels: heating values, densities, vapour pressure, combustion, viscosity in the cold."""
