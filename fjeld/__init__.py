"""Fjeld: plans, proves and records the wiring of a house."""

__version__ = "0.1.0"
