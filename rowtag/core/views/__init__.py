"""All kinds of view, each in a module of its own; importing this package registers them."""

from rowtag.core.views import battery, crosstab, distribution, groups, several
from rowtag.core.views.base import VIEWS, FillCounts, View, load_view

__all__ = ["VIEWS", "FillCounts", "View", "battery", "crosstab", "distribution", "groups", "load_view", "several"]
