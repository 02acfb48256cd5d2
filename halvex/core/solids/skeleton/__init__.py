"""The shrinking wavefront: compiled kernels behind the mitred roof (see ../roof.py).

A polygon's edges move inwards at unit speed; time is the height of the roof (Aichholzer &
Aurenhammer, COCOON 1996). `state` holds the moving rings, `contacts` finds when and where they next
touch, `surgery` re-nodes and re-traces the rings there, `faces` chains what the vertices drew into
one polygon per edge and triangulates it, and `run` drives them.
"""
