"""Through what stays closed: where a box may be cut in, the ways a cable can go, what they cost and leave to
be patched.
"""
