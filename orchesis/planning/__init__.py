"""How long a song takes: what was spent on others, and what is left of this one."""

from orchesis.planning.effort import Forecast, Work, forecast, worked

__all__ = ["Forecast", "Work", "forecast", "worked"]
