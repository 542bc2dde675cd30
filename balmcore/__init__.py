"""The making of balms, computed: measures, solids, firmness, batches, tests and cautions.

Nothing here knows of the web or a database. Values carry their unit in their name
(``mass_g``, ``temp_c``, ``yield_pa``); a ``share`` runs from 0 to 1; ``firmness`` is the
0 to 100 scale explained in :mod:`balmcore.physics.firmness`.
"""
