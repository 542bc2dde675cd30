"""A market day: what was taken along, what came back, and what that took in and had cost."""
