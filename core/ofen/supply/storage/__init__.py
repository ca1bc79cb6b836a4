"""Vessels, banks and cartridges."""
