"""Errands: one thing in a room that stays closed, from what is already there."""
