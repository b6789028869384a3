"""The work itself, in a house and in one room: steps with their gates, what to carry, how long it takes,
where it stands.
"""
