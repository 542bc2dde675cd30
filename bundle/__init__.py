"""One folder that runs without Python: how it is built, and how it is tried."""
