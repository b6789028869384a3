"""One thing in a finished room: what is known of its box, its spot and its way, what may be done next, and
what shuts it.
"""
