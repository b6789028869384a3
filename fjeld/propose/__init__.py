"""Searches: each takes a drawing and returns an edit, or a value, with its difference in price.

Nothing here changes anything. What a person has pinned or built no proposal touches.
"""
