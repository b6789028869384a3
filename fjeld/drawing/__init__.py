"""What people decide: the drawing, its handles, and the one kind of change.

A drawing holds every choice and nothing that follows from one. Whatever can be
computed (routes, conductors, fill, lists) is the business of :mod:`fjeld.derive`.
"""
