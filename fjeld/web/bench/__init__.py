"""The bench: single questions without a job, each on a page of its own whose address holds what was asked."""
