"""What comes of each function of the core, as it is called and with something of what it is given changed, stays what it was.

The sums in ``tests/kept/shaken.json`` (the calls of a function by number, and one sum of all that comes of them) are the program's own
and prove nothing by themselves: they say that a function does as it did.  Where one changes on purpose, run this file with
``GNOMONIC_KEEP=1`` before and after, which writes what comes of each call below ``var/shaken``, and read the difference.  With
``GNOMONIC_KEEP=choose`` calls are chosen again for functions that are new or do otherwise.
"""

import os
from collections import defaultdict

import pytest
import shaken
import telling

from gnomonic.workshop.mutate.fresh import CHANGE

KEEPING = os.environ.get("GNOMONIC_KEEP", "")
MODULES = defaultdict(dict)
for name, row in telling.kept().items():
    MODULES[name.partition(":")[0]][name] = row

pytestmark = pytest.mark.skipif(CHANGE in os.environ, reason="what functions are given is noted before one is changed")
before_changes = shaken.calls  # noted once by ``./gnomonic mutate``


@pytest.mark.skipif(not KEEPING, reason="only to keep sums anew")
def test_keeping_anew():
    telling.keep(KEEPING == "choose")


@pytest.mark.skipif(bool(KEEPING), reason="kept anew")
@pytest.mark.parametrize("module", MODULES)
def test_of(module):
    with shaken.guarded():
        known = shaken.calls()
        other = [
            n for n, (numbers, kept) in MODULES[module].items() if n in known and telling.sum_of(n, numbers) != kept
        ]
        gone = [n for n in MODULES[module] if n not in known]
    assert (other, gone) == ([], [])
