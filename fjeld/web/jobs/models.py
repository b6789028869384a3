"""What is stored: documents by their content, revisions that are only added, jobs that point at one.

A document is a job file, compressed, under the digest of its bytes. A revision is one
edit of one person; undoing is another revision. A job's counters only rise, so that a
handle once given is never given again.
"""

from __future__ import annotations

import hashlib
import zlib

from django.conf import settings
from django.db import models

from fjeld.derive.memo import Kept
from fjeld.drawing.model import Drawing
from fjeld.formats import jobfile

#: The drawings last read or written, by digest: the next request meets the very same one.
_kept: Kept[str] = Kept(128)


class Document(models.Model):
    """A drawing as a job file, by content."""

    sha256 = models.CharField(max_length=64, primary_key=True)
    format = models.PositiveSmallIntegerField(default=jobfile.FORMAT)
    body = models.BinaryField()

    def __str__(self) -> str:
        return self.sha256[:12]

    @classmethod
    def of(cls, drawing: Drawing) -> Document:
        """The document of a drawing, stored once however often it is met."""
        data = jobfile.encode(drawing)
        digest = hashlib.sha256(data).hexdigest()
        _kept.get(digest, lambda: jobfile.ordered(drawing))
        return cls.objects.get_or_create(sha256=digest, defaults={"body": zlib.compress(data, 6)})[0]

    @property
    def drawing(self) -> Drawing:
        found: Drawing = _kept.get(self.sha256, lambda: jobfile.decode(zlib.decompress(bytes(self.body))))
        return found


class Job(models.Model):
    """A house being wired."""

    name = models.CharField(max_length=120)
    head = models.ForeignKey("Revision", null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    counters = models.JSONField(default=dict)
    archived = models.BooleanField(default=False)
    created = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return self.name


class Revision(models.Model):
    """One step of a job's history."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="revisions")
    seq = models.PositiveIntegerField()
    parent = models.ForeignKey("self", null=True, blank=True, on_delete=models.PROTECT, related_name="+")
    document = models.ForeignKey(Document, on_delete=models.PROTECT, related_name="+")
    words = models.CharField(max_length=300)
    who = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    when = models.DateTimeField(auto_now_add=True)
    undoes = models.ForeignKey(
        "self", null=True, blank=True, on_delete=models.PROTECT, related_name="undone_by"
    )

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "seq"], name="one_revision_a_step")]
        ordering = ["seq"]

    def __str__(self) -> str:
        return f"{self.seq}: {self.words}"


class Member(models.Model):
    """A person's role in a job."""

    class Role(models.TextChoices):
        OWNER = "owner"
        EDITOR = "editor"
        SITE = "site", "site hand"
        READER = "reader"

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="members")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=10, choices=Role.choices, default=Role.OWNER)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "user"], name="one_role_a_job")]

    def __str__(self) -> str:
        return f"{self.user} in {self.job}: {self.role}"

    @property
    def may_edit(self) -> bool:
        return self.role in (self.Role.OWNER, self.Role.EDITOR)
