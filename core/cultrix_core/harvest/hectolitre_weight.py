"""Test weight of grain: pounds a bushel and kilograms a hectolitre.

A United States bushel holds 2150.42 cubic inches, so 1 lb/bu = 0.45359237 kg ÷ 0.3523907 hL (definitions).
"""

from cultrix_core.errors import require_positive
from cultrix_core.units import BUSHEL_HL, LB_KG

LB_BU_TO_KG_HL = LB_KG / BUSHEL_HL


def kg_per_hl(lb_per_bu: float) -> float:
    """Test weight in kg/hL."""
    return require_positive(lb_per_bu, "test_weight", label="Test weight") * LB_BU_TO_KG_HL


def lb_per_bu(kg_hl: float) -> float:
    """Test weight in lb/bu."""
    return require_positive(kg_hl, "test_weight", label="Test weight") / LB_BU_TO_KG_HL
