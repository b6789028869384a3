"""Jobs, their revisions, and who may do what in them."""
