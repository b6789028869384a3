"""What every thread of a server reads first, read before there are threads: practices, tables, and the types
of what is stored.
"""

from __future__ import annotations

from fjeld import practice as practices
from fjeld.demo import job_file
from fjeld.drawing.errand import Errand
from fjeld.formats import document, jobfile
from fjeld.practice.finished import minutes
from fjeld.practice.finished.roles import role_data
from fjeld.practice.finished.sources import sources
from fjeld.practice.finished.spots import spots
from fjeld.practice.finished.ways import way_data
from fjeld.work.book import book


def warm() -> None:
    """Read all of it once."""
    for name in practices.available():
        book(Errand("light"), practices.load(name))
    for table in (minutes, role_data, sources, spots, way_data):
        table()
    drawing = jobfile.decode(job_file("boot-room"))
    document.require_same(drawing)
