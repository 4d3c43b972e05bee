"""The hang: the rest shape of a piece on its form, with the force in every member.

`bodies` (what it hangs on) and `network` (points, threads, rods) -> `solve` -> a `Solution`;
`build` makes the network of an assembly, `readings` reads falls and gaps off the solution.
Not covered: friction, strand rubbing on strand, the stiffness of heavy cord.
"""
