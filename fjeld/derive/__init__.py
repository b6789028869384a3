"""What follows from a drawing: marks, routes, conductors, boxes, figures, lists, network.

Nothing here chooses. Each stage is a plain function of the values it reads; the
order of the stages is written down once, in :mod:`fjeld.derive.plan`.
"""
