"""Every door of the application: the routers of the verbs, in the order they are tried: those first that are asked for most."""

from gnomonic.web.days import calendar as days_calendar
from gnomonic.web.days import crew as days_crew
from gnomonic.web.days import out as days_out
from gnomonic.web.days import paper as days_paper
from gnomonic.web.days import routes as days
from gnomonic.web.days import sheet as day_sheet
from gnomonic.web.door import keys, people
from gnomonic.web.door import routes as door
from gnomonic.web.field import day_sheets, sync
from gnomonic.web.field import routes as field
from gnomonic.web.haul import cost, options, quotes, selling, shopping, stock
from gnomonic.web.haul import routes as haul
from gnomonic.web.hold import book, labels, shop
from gnomonic.web.hold import routes as hold
from gnomonic.web.home import routes as home
from gnomonic.web.lines import routes as lines
from gnomonic.web.log import routes as field_log
from gnomonic.web.openings import routes as openings
from gnomonic.web.openings import sheet as gate_sheet
from gnomonic.web.patterns import routes as patterns
from gnomonic.web.pull import routes as pull
from gnomonic.web.set import routes as set_out
from gnomonic.web.stand import log, sheet
from gnomonic.web.stand import routes as stand
from gnomonic.web.sums import routes as sums
from gnomonic.web.walk import line, marking, rover
from gnomonic.web.walk import routes as walk

DOORS = tuple(
    part.router
    for part in (
        home,
        set_out,
        lines,
        walk,
        rover,
        line,
        marking,
        hold,
        labels,
        book,
        shop,
        stand,
        sheet,
        log,
        openings,
        gate_sheet,
        pull,
        haul,
        stock,
        selling,
        cost,
        options,
        quotes,
        shopping,
        days,
        day_sheet,
        days_crew,
        days_calendar,
        days_out,
        days_paper,
        sums,
        field_log,
        sync,
        day_sheets,
        field,
        door,
        keys,
        people,
    )
)
PATTERNS = patterns.router  # shown with the demo alone
