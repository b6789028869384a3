"""Records in the form that says what each is: readings as they are gone by, steps with figures under their
ids.
"""

from __future__ import annotations

import zlib
from typing import Any

from django.db import migrations

from fjeld.drawing.old_box import OldBox
from fjeld.errand.record import as_found
from fjeld.formats import document
from fjeld.formats.older import record_as_told
from fjeld.oldbox.found import FoundBox
from fjeld.work.records import stored


def tell(apps: Any, schema_editor: Any) -> None:
    """Every record once; one that is of that form already stays."""
    records = apps.get_model("jobs", "Record").objects.all()
    revisions = apps.get_model("jobs", "Revision").objects.select_related("document")
    boxes: dict[tuple[int, int], dict[str, FoundBox]] = {}
    for record in records.iterator():
        if "record" in record.body:
            continue
        at = (record.job_id, record.seq)
        if record.kind == "reading" and at not in boxes:
            boxes[at] = _boxes(revisions.filter(job_id=record.job_id, seq__lte=record.seq).last())
        box = boxes.get(at, {}).get(record.key)
        record.body = stored(record_as_told(record.kind, record.body, box))
        record.save(update_fields=["body"])


def _boxes(revision: Any) -> dict[str, FoundBox]:
    """The old boxes as they were drawn at a step."""
    try:
        body = zlib.decompress(bytes(revision.document.body))
        drawing = document.decode(body, revision.document.format)
    except (AttributeError, document.DocumentError, zlib.error):
        return {}
    return {handle: as_found(old) for handle, old in drawing.of(OldBox).items()}


class Migration(migrations.Migration):
    dependencies = [("jobs", "0005_photo_written")]
    operations = [migrations.RunPython(tell, migrations.RunPython.noop)]
