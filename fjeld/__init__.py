"""Fjeld: plans, proves and records the wiring of a house."""

import os

# The matrices here are small: threads inside the linear algebra cost more than they give.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.4.0"
