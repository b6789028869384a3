"""What is kept at a place, for a house as for an errand: readings, photographs, what stands done, and the
words for an old box.
"""
