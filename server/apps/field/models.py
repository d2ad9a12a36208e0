"""Models whose tables are named ``records_…``; those of the other rooms of this floor stand with their own apps."""

from apps.field.events.models import FieldEvent
from apps.field.harvest.models import HarvestLoad
from apps.field.readings.models import PenetrometerReading
from apps.field.stand.models import SamplingPlan, StandCount
from apps.field.visits.models import JoinedVisit

__all__ = ["FieldEvent", "HarvestLoad", "JoinedVisit", "PenetrometerReading", "SamplingPlan", "StandCount"]
