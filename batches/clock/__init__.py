"""A batch on the clock: days and times, a place on it, the calendar file."""
