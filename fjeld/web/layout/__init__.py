"""Putting boxes where they belong."""
