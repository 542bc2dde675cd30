"""What a maker's records teach: calibration, rates, pace, ladders, reactions, what to try next."""
