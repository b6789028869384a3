"""One function for each judgement on plain measures: no drawing, no house, no errand.

Each returns what it worked out, and what that means under a practice.
"""
