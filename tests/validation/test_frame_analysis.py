"""Brace forces against the general frame-analysis library Pynite (PyNiteFEA), posts, rail and wire as it solves them.

Posts are stiff beams pinned at the ground; rail and wire are truss members.  The closed form takes posts as rigid, so
agreement is to the stiffness given them here (1e-4).
"""

import pytest
from Pynite import FEModel3D

from gnomonic.core.brace.statics import diagonal_brace, h_brace


def frame():
    model = FEModel3D()
    model.add_material("steel", 200e9, 77e9, 0.3, 0)
    model.add_section("stiff", 0.1, 1.0, 1.0, 1.0)
    model.add_section("bar", 1e-4, 1e-8, 1e-8, 1e-8)
    return model


def node(model, name, x, y, grounded=False):
    model.add_node(name, x, y, 0)
    model.def_support(name, grounded, grounded, True, True, True, False)


def pull(model, name, newton):
    model.add_node_load(name, "FX", newton)


@pytest.mark.parametrize("panels", [1, 2, 3])
@pytest.mark.parametrize(("rail", "spacing"), [(1.05, 2.4), (0.9, 3.0)])
def test_h_brace(panels, rail, spacing):
    newton, at = 4000.0, 0.7
    model = frame()
    for k in range(panels + 1):
        node(model, f"foot{k}", k * spacing, 0, grounded=True)
        node(model, f"top{k}", k * spacing, rail)
        if k == 0:
            node(model, "pull", 0, at)
            model.add_member("lower", "foot0", "pull", "steel", "stiff")
            model.add_member("upper", "pull", "top0", "steel", "stiff")
        else:
            model.add_member(f"post{k}", f"foot{k}", f"top{k}", "steel", "stiff")
            for name, i, j in ((f"rail{k}", f"top{k - 1}", f"top{k}"), (f"wire{k}", f"top{k}", f"foot{k - 1}")):
                model.add_member(name, i, j, "steel", "bar")
                model.def_releases(name, Rzi=True, Rzj=True)
    pull(model, "pull", newton)
    model.analyze(check_statics=False)
    ours = h_brace(newton, at, rail, spacing, panels)
    for k in range(panels):
        assert abs(model.members[f"rail{k + 1}"].axial(0, "Combo 1")) == pytest.approx(ours.rail_n[k], rel=2e-3)
        assert abs(model.members[f"wire{k + 1}"].axial(0, "Combo 1")) == pytest.approx(ours.wire_n[k], rel=2e-3)
    assert -model.nodes["foot0"].RxnFY["Combo 1"] == pytest.approx(ours.end_post_uplift_n, rel=2e-3)
    for k in range(panels + 1):
        assert -model.nodes[f"foot{k}"].RxnFX["Combo 1"] == pytest.approx(ours.foot_shear_n[k], abs=newton * 2e-3)


def test_diagonal_brace():
    model = frame()
    node(model, "foot", 0, 0, grounded=True)
    node(model, "pull", 0, 0.8)
    node(model, "top", 0, 1.1)
    node(model, "footing", 1.5, 0, grounded=True)
    model.def_support("footing", True, True, True, True, True, True)
    model.add_member("lower", "foot", "pull", "steel", "stiff")
    model.add_member("upper", "pull", "top", "steel", "stiff")
    model.add_member("strut", "top", "footing", "steel", "bar")
    model.def_releases("strut", Rzi=True, Rzj=True)
    pull(model, "pull", 3000)
    model.analyze(check_statics=False)
    ours = diagonal_brace(3000, 0.8, 1.1, 1.5, "none")
    assert abs(model.members["strut"].axial(0, "Combo 1")) == pytest.approx(ours.strut_n, rel=1e-3)
    assert -model.nodes["foot"].RxnFY["Combo 1"] == pytest.approx(ours.end_post_uplift_n, rel=1e-3)
    assert -model.nodes["footing"].RxnFX["Combo 1"] == pytest.approx(ours.foot_reaction_n[0], rel=1e-3)
    assert model.nodes["footing"].RxnFY["Combo 1"] == pytest.approx(ours.foot_reaction_n[1], rel=1e-3)
