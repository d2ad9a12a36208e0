"""Cultrix core: agronomy, design, statistics and money, without any interface.

Nothing here knows Django, files (``cli.py`` alone reads one), the clock or a global random state.
Quantities inside the core are SI-like and carry their unit in the name: ``row_spacing_m``,
``plants_per_m2``, ``yield_kg_per_ha``, ``price_per_t``, ``cost_per_ha``, ``moisture_pct``.
"""

__version__ = "0.2.0"
