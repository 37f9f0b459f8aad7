"""The set-out's optimum against Dijkstra's algorithm in networkx, on the same bays weighed in plain Python."""

import networkx as nx
import numpy as np
import pytest

from gnomonic.core.setout.least_cost import Limits, solve
from gnomonic.workshop.plain import bay_cost, plain_set_out


@pytest.mark.parametrize("seed", range(6))
def test_least_cost(seed):
    random = np.random.default_rng(seed)
    x = np.unique(np.concatenate([np.arange(0, 40.01, 0.5), random.uniform(0, 40, 20)]))
    z = np.cumsum(random.normal(0, 0.08, len(x)))
    allowed = random.random(len(x)) > 0.2
    limits = Limits(4.0, 0.06, 0.0, 0.1, 4.0, 8.0)
    graph, (xs, zs) = nx.DiGraph(), (x.tolist(), z.tolist())
    stands = [bool(a) or k in (0, len(x) - 1) for k, a in enumerate(allowed)]
    for i in range(len(xs)):
        for j in range(i + 1, len(xs)):
            if xs[j] - xs[i] <= 4.0 + 1e-9 and stands[i] and stands[j]:
                graph.add_edge(i, j, weight=bay_cost(xs, zs, i, j, 0.06, 0.0, 0.1, 4.0, 8.0))
    solved = solve(x, z, allowed, limits)
    assert solved.cost_to_go[0] == pytest.approx(nx.dijkstra_path_length(graph, 0, len(xs) - 1), abs=1e-6)
    plain = plain_set_out(xs, zs, allowed.tolist(), 4.0, 0.06, 0.0, 0.1)
    assert (solved.cost_to_go[0], solved.squares_to_go[0]) == pytest.approx(plain, abs=1e-5)
