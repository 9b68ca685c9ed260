"""What every kind of record is built on."""

from __future__ import annotations

from typing import Annotated, ClassVar
from uuid import uuid4

from pydantic import BaseModel, ConfigDict, Field

Positive = Annotated[float, Field(gt=0, allow_inf_nan=False)]
NotNegative = Annotated[float, Field(ge=0, allow_inf_nan=False)]
Finite = Annotated[float, Field(allow_inf_nan=False)]


def new_id() -> str:
    return uuid4().hex[:16]


class Part(BaseModel):
    """Something inside a record."""

    # Deferred: a start pays for the validators of the kinds that its notebook holds, not for all.
    model_config = ConfigDict(frozen=True, extra="forbid", defer_build=True)


class Record(Part):
    """The base of every kind; `id` stays the same through all revisions."""

    kind: ClassVar[str] = ""
    id: str = Field(default_factory=new_id)

    @property
    def title(self) -> str:
        """What a person calls it, for the tape and the finder."""
        return self.kind
