"""What is stored: documents by their content, revisions that are only added, jobs that point at one.

A document is a drawing in its stored form, compressed, under the digest of its bytes. A
revision is one edit of one person, kept with what it meant and what it changed; undoing is
another revision. A job's counters only rise, so that a handle once given is never given again.
"""

from __future__ import annotations

import hashlib
import zlib
from datetime import datetime

from django.conf import settings
from django.db import models

from fjeld.derive.memo import LastUsed
from fjeld.drawing.model import Drawing
from fjeld.formats import document
from fjeld.work.records import Told, told

#: A drawing in memory takes about so many bytes for each of its stored form.
_IN_MEMORY = 12
#: The drawings last read or written, by digest: the next request meets the very same one.
_kept: LastUsed[str] = LastUsed(settings.DRAWINGS_BYTES, lambda found: _IN_MEMORY * found[1])


#: Single things by their handle and stored bytes: a drawing read anew shares those of the one before it.
_things: LastUsed[tuple[str, bytes]] = LastUsed(settings.DRAWINGS_BYTES // 4, lambda thing: 1200)


class Document(models.Model):
    """A drawing in its stored form, by content. ``format`` is the number that it was stored under."""

    sha256 = models.CharField(max_length=64, primary_key=True)
    format = models.PositiveSmallIntegerField(default=document.FORMAT)
    body = models.BinaryField()

    def __str__(self) -> str:
        return self.sha256[:12]

    @classmethod
    def made(cls, drawing: Drawing) -> tuple[Document, Drawing]:
        """The document of a drawing, not yet stored, and the drawing as it will be read back.

        Raises :class:`fjeld.formats.document.NotTheSame` if that is another: memory never
        holds what the disc does not.
        """
        data, back = document.require_same(drawing)
        digest = hashlib.sha256(data).hexdigest()
        kept: tuple[Drawing, int] = _kept.get(digest, lambda: (back, len(data)))
        return cls(sha256=digest, body=zlib.compress(data, 6)), kept[0]

    @classmethod
    def of(cls, drawing: Drawing) -> Document:
        """The document of a drawing, stored once however often it is met."""
        return cls.made(drawing)[0].stored()

    def stored(self) -> Document:
        """This document in the database, where an equal one may be already."""
        return Document.objects.get_or_create(
            sha256=self.sha256, defaults={"body": self.body, "format": self.format}
        )[0]

    @property
    def data(self) -> bytes:
        """The bytes as they were stored."""
        return zlib.decompress(bytes(self.body))

    @property
    def drawing(self) -> Drawing:
        """The drawing; raises :class:`fjeld.formats.document.DocumentError` if it cannot be read."""

        def read() -> tuple[Drawing, int]:
            data = self.data
            return document.decode(data, self.format, _things.get), len(data)

        found: tuple[Drawing, int] = _kept.get(self.sha256, read)
        return found[0]


def forget_drawings() -> None:
    """Forget every drawing in memory, as a restart does."""
    _kept.clear()
    _things.clear()


class Job(models.Model):
    """A house being wired. ``card`` is what the list of jobs shows of its head, worked out when that was
    made.
    """

    name = models.CharField(max_length=120)
    head = models.ForeignKey("Revision", null=True, blank=True, on_delete=models.SET_NULL, related_name="+")
    counters = models.JSONField(default=dict)
    card = models.JSONField(null=True, blank=True)
    archived = models.BooleanField(default=False)
    created = models.DateTimeField(auto_now_add=True)
    searches_stopped = models.DateTimeField(null=True, blank=True)

    def __str__(self) -> str:
        return self.name


class Revision(models.Model):
    """One step of a job's history: what was meant, what it changed, and the drawing it left.

    ``edit`` and ``changes`` are compressed JSON, empty in steps older than they are.
    ``client`` tells the pages of one person apart.
    """

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="revisions")
    seq = models.PositiveIntegerField()
    parent = models.ForeignKey("self", null=True, blank=True, on_delete=models.CASCADE, related_name="+")
    document = models.ForeignKey(Document, on_delete=models.PROTECT, related_name="+")
    words = models.CharField(max_length=300)
    who = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    when = models.DateTimeField(auto_now_add=True)
    undoes = models.ForeignKey(
        "self", null=True, blank=True, on_delete=models.CASCADE, related_name="undone_by"
    )
    client = models.CharField(max_length=40, blank=True, default="")
    edit = models.BinaryField(default=bytes)
    changes = models.BinaryField(default=bytes)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "seq"], name="one_revision_a_step")]
        ordering = ["seq"]

    def __str__(self) -> str:
        return f"{self.seq}: {self.words}"


class Member(models.Model):
    """A person's role in a job."""

    class Role(models.TextChoices):
        OWNER = "owner", "owner"
        EDITOR = "editor", "editor"
        SITE = "site", "site hand"
        READER = "reader", "reader"

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="members")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=10, choices=Role.choices, default=Role.OWNER)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "user"], name="one_role_a_job")]

    def __str__(self) -> str:
        return f"{self.user} in {self.job}: {self.role}"

    @property
    def may_edit(self) -> bool:
        """Whether the person may change the drawing: an archived job is closed to everyone."""
        return self.role in (self.Role.OWNER, self.Role.EDITOR) and not self.job.archived


class Record(models.Model):
    """Something that was read, done or noted on site: no edit of the drawing, and kept when its subject has
    gone.

    ``key`` names what it is of, ``seq`` the step of the drawing it was made at. ``token`` is made where it
    was written, so that what is sent twice is kept once. ``struck`` out it is kept and not gone by.
    """

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="records")
    key = models.CharField(max_length=80)
    kind = models.CharField(max_length=16)
    body = models.JSONField(default=dict)
    seq = models.PositiveIntegerField()
    who = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    when = models.DateTimeField(auto_now_add=True)
    token = models.CharField(max_length=40)
    struck = models.BooleanField(default=False)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "token"], name="one_record_a_token")]
        ordering = ["when", "pk"]

    def __str__(self) -> str:
        return f"{self.kind} of {self.key}"

    @property
    def told(self) -> Told:
        """What is kept, read."""
        return told(self.body)

    @property
    def happened(self) -> datetime:
        """When it happened: where it was written without connection, when it was written."""
        return self.told.written or self.when


class Photo(models.Model):
    """A photograph of a step or a box, by its ``key``: upright, made small, without what the camera wrote
    into it.

    ``written`` is when it was taken, where it came some time after. It stands in the database, so that what
    backs that up backs up all of it.
    """

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="photos")
    key = models.CharField(max_length=80)
    jpeg = models.BinaryField()
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    seq = models.PositiveIntegerField()
    who = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    when = models.DateTimeField(auto_now_add=True)
    token = models.CharField(max_length=40)
    struck = models.BooleanField(default=False)
    written = models.DateTimeField(null=True, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "token"], name="one_photo_a_token")]
        ordering = ["when", "pk"]

    def __str__(self) -> str:
        return f"photograph of {self.key}"
