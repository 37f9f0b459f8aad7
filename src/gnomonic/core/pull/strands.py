"""Many strands on ends that give: what tightening one does to the others.

Each strand is a straight spring E·A/L between two ends that move together c metres a newton of all strands' pull.  Strand by
strand each is drawn until it has its tension; every later one moves the ends and lets the earlier ones down.  Source: balance of
forces, derived in docs/method.md §8.
"""

from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Strung:
    """Tensions after each round, in the order strung; what each is drawn to for a single round to leave all alike; metres
    taken up by each in the first round."""

    rounds_n: tuple[tuple[float, ...], ...]
    single_n: tuple[float, ...]
    drawn_m: tuple[float, ...]

    @property
    def rounds(self) -> int:
        """How many rounds were gone."""
        return len(self.rounds_n)


def strung(target_n: Sequence[float], stiff_n_m: Sequence[float], give_m_n: float, near: float = 0.05) -> Strung:
    """Strands drawn one after the other to their tensions, round after round until none is further off than ``near``.

    ``stiff_n_m`` is E·A/L of each, ``give_m_n`` how far both ends together move a newton.

    >>> s = strung([1000.0] * 2, [5000.0] * 2, 1e-5)
    >>> [round(t) for t in s.rounds_n[0]], [round(t) for t in s.single_n]
    ([952, 1000], [1048, 1000])
    """
    count = len(target_n)
    drawn, now = [0.0] * count, [0.0] * count
    rounds: list[tuple[float, ...]] = []
    first: tuple[float, ...] = ()
    for _ in range(20):
        for k in range(count):
            others = [j for j in range(count) if j != k and drawn[j] > 0]
            # with the ends at u = c·ΣT and the others at k_j·(e_j − u): ΣT = (T_k + Σ k_j·e_j)/(1 + c·Σ k_j)
            total = (target_n[k] + sum(stiff_n_m[j] * drawn[j] for j in others)) / (
                1 + give_m_n * sum(stiff_n_m[j] for j in others)
            )
            ends = give_m_n * total
            drawn[k] = target_n[k] / stiff_n_m[k] + ends
            for j in others:
                now[j] = stiff_n_m[j] * (drawn[j] - ends)
            now[k] = target_n[k]
        first = first or tuple(drawn)
        rounds.append(tuple(now))
        if all(abs(t - want) <= near * want for t, want in zip(now, target_n, strict=True)):
            break
    return Strung(tuple(rounds), _single(target_n, stiff_n_m, give_m_n), first)


def _single(target_n: Sequence[float], stiff_n_m: Sequence[float], give_m_n: float) -> tuple[float, ...]:
    """What each is drawn to at its turn so that all have their tension when the last is: its own length, on ends not yet moved so far."""
    lengths = [t / k + give_m_n * sum(target_n) for t, k in zip(target_n, stiff_n_m, strict=True)]
    found = []
    for k in range(len(target_n)):
        drawn = range(k + 1)
        stiff = sum(stiff_n_m[j] for j in drawn)
        total = sum(stiff_n_m[j] * lengths[j] for j in drawn) / (1 + give_m_n * stiff)
        found.append(stiff_n_m[k] * (lengths[k] - give_m_n * total))
    return tuple(found)
