"""How often a property is tried: as often as the suite has time for, or FJELD_OFTEN times as often in a long
run.
"""

import os

from hypothesis import settings

OFTEN = int(os.environ.get("FJELD_OFTEN", "1"))


def often(examples):
    """The settings of a property that is tried so many times in the suite."""
    return settings(max_examples=examples * OFTEN)
