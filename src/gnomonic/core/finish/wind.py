"""Wind on what hangs: velocity pressure, how much of it is wire, what that pushes.

Source: q = ½ρV²; force coefficients of open frames and of solid walls as ASCE 7-10, figures 29.5-2 and 29.4-1 (from memory).
"""

import math

from gnomonic.core.fabric.fabrics import Fabric
from gnomonic.core.fabric.wire import gauge

AIR_KG_M3 = 1.226  # ½ρ = 0.613, as the codes have it
SOLID_CF = 1.3  # a wall on the ground, seen along its whole length
LINK_ROOT2 = math.sqrt(2)


def velocity_pressure_pa(speed_m_s: float) -> float:
    """½ρV².

    >>> round(velocity_pressure_pa(30.0), 1)
    551.7
    """
    return AIR_KG_M3 / 2 * speed_m_s**2


def force_coefficient(solidity: float, diameter_m: float, q_pa: float) -> float:
    """Force coefficient of an open frame of round wires on the area they cover; of what is all but shut, a wall's.

    ASCE 7-10 figure 29.5-2: round members with D√q ≤ 2.5 (D in feet, q in psf) 1.2, 1.3, 1.5 for ε < 0.1, 0.1–0.29, 0.3–0.7; more
    than that 0.8, 0.9, 1.1.
    """
    if solidity > 0.7:
        return SOLID_CF
    fine = diameter_m / 0.3048 * math.sqrt(q_pa / 47.880259) <= 2.5
    row = (1.2, 1.3, 1.5) if fine else (0.8, 0.9, 1.1)
    return row[0] if solidity < 0.1 else row[1] if solidity < 0.3 else row[2]


def covered(fabric: Fabric, ice_m: float = 0.0) -> tuple[float, float]:
    """Share of a fabric's face that its wires cover, each thickened all round by ``ice_m``, and the wires' mean thickness.

    Level and upright wires cover 1 − (1 − a)(1 − b); a sheet covers all.
    """
    if fabric.kind == "sheet":
        return 1.0, 0.0
    if fabric.spacing_in:
        thick = [w.d_m + 2 * ice_m for w in fabric.line_wires]
        stay = gauge(fabric.filler_gauge).m + 2 * ice_m
        level, upright, mean = sum(thick) / fabric.height_m, stay / fabric.stay_m, sum(thick) / len(thick)
    else:
        mean = gauge(fabric.gauge).m + 2 * ice_m
        up, along = fabric.mesh_m
        # the two ways of a diamond or a hexagon lie as far apart as its mesh; a hexagon's twists cover a third way
        level, upright = mean / up, mean / along
        if fabric.kind in ("hex", "netting"):
            upright *= 1.5
    level, upright = min(level, 1.0), min(upright, 1.0)
    return 1 - (1 - level) * (1 - upright), mean


def push_n_m(solidity: float, diameter_m: float, height_m: float, speed_m_s: float) -> float:
    """Wind on a metre of a barrier so high, of which ``solidity`` is covered."""
    q = velocity_pressure_pa(speed_m_s)
    return q * force_coefficient(solidity, diameter_m, q) * solidity * height_m
