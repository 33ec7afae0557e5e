"""How a day's water is spread over its hours: an instant's peak is not an hour's mean."""

from __future__ import annotations

from sizing.base.units import SECONDS_PER_HOUR

# Share of the largest hour, by the hour of the day: people up at six, at home in the evening
# (assumed: the usual double hump of a household's water, two low hours in the night).
HOUSEHOLD = (
    *(0.15, 0.08, 0.06, 0.06, 0.10, 0.30, 0.75, 1.00, 0.85, 0.65, 0.55, 0.55),
    *(0.60, 0.50, 0.42, 0.40, 0.48, 0.65, 0.85, 0.90, 0.75, 0.60, 0.45, 0.28),
)
BUSIEST_HOUR = max(HOUSEHOLD) / sum(HOUSEHOLD)  # of the day's volume


def busiest_hour_m3s(daily_volume_m3: float) -> float:
    """Mean flow of the busiest hour of a household's day [m3/s].

    >>> round(busiest_hour_m3s(2.4) * 3600, 3)
    0.2
    """
    return daily_volume_m3 * BUSIEST_HOUR / SECONDS_PER_HOUR
