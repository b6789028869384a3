"""What is in an old box: every wiring that it could have, what readings leave of them, and what follows for
new work in it.
"""
