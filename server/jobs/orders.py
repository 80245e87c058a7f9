"""What was ordered."""

from pydantic import BaseModel, Field

from kitecore.lengths import Unit


class PrintOrder(BaseModel):
    """A print: width × height on paper, and the ppi the printer asks for."""

    width: float = Field(gt=0, le=10_000)
    height: float = Field(gt=0, le=10_000)
    unit: Unit = "cm"
    ppi: float = Field(default=300, ge=10, le=2400)
