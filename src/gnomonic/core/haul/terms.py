"""On what terms a workspace works: its money, its rates, what is on a quote besides the sum."""

from decimal import Decimal
from typing import Annotated

from pydantic import Field, field_validator, model_validator

from gnomonic.core.haul.held import Cents, Words
from gnomonic.core.haul.money import must_be_currency
from gnomonic.core.log.events import PLAIN_TEXT
from gnomonic.core.record import Record

STEPS = {"ends": "ends and braces", "line": "line posts", "hanging": "hanging", "extras": "extras along it", "gates": "gates", "rock": "holes in rock", "concrete": "concrete round posts"}  # fmt: skip
DIGGING = ("ends", "line", "rock")  # steps in which plant runs
EXCLUSIONS = (
    "rock, water or anything buried that is not in this quote",
    "marking, moving or mending buried services",
    "access for machines, clearing beyond the swath",
    "permits, easements and the boundary itself",
)
Share = Annotated[Decimal, Field(ge=0, le=1, max_digits=8, decimal_places=6)]
Sentence = Annotated[str, Field(min_length=1, max_length=200, pattern=PLAIN_TEXT)]


class Payment(Record):
    """A part of the sum and when it is due."""

    text: Sentence
    share: Share


class Terms(Record):
    """Rates are cents an hour, none where nothing was said (0: it is not charged): ``hour`` for one person, by step where ``steps`` says so; ``plant_hour`` and ``fuel_hour`` while
    posts are set.  ``margin`` on cost, ``tax`` on the sum; ``rate`` a year for comparing over ``years``."""

    who: Words = ""
    currency: str = "USD"
    hour: Cents | None = None
    steps: dict[str, Cents] = Field(default_factory=dict)
    plant_hour: Cents | None = None
    fuel_hour: Cents | None = None
    margin: Share = Decimal(0)
    tax: Share = Decimal(0)
    tax_name: Annotated[str, Field(min_length=1, max_length=24, pattern=PLAIN_TEXT)] = "tax"
    valid_days: Annotated[int, Field(ge=1, le=365)] = 30
    payments: Annotated[tuple[Payment, ...], Field(min_length=1, max_length=8)] = (
        Payment(text="on acceptance, for material", share=Decimal("0.4")),
        Payment(text="when the posts stand", share=Decimal("0.3")),
        Payment(text="when the work is handed over", share=Decimal("0.3")),
    )
    exclusions: Annotated[tuple[Sentence, ...], Field(max_length=20)] = EXCLUSIONS
    rate: Share = Decimal("0.05")
    years: Annotated[int, Field(ge=1, le=100)] = 20

    @field_validator("currency")
    @classmethod
    def _known(cls, code: str) -> str:
        return must_be_currency(code)

    @model_validator(mode="after")
    def _whole(self) -> "Terms":
        if sum(p.share for p in self.payments) != 1:
            raise ValueError("the payments must come to 100 % together")
        if odd := next((step for step in self.steps if step not in STEPS), None):
            raise ValueError(f"there is no step of work called “{odd[:24]}”")
        return self

    def hourly(self, step: str) -> int | None:
        """What an hour of a step is charged; None where no rate was said."""
        return self.steps.get(step, self.hour)
