"""What comes over the wire and goes back: a request's view of a job, refusals in words, searches, and what is
stored of it.
"""
