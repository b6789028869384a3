"""One thing in a room that stays closed: what can be worked out of it without a drawing of the house.

Each module answers one question: a struct that is asked, and a function that gives an
:class:`~fjeld.finished.answer.Answer`. Lengths are in mm.
"""
