"""Drawing of parts, to scale, from their geometry, in their own material.

Everything is drawn in millimetres on a painter that is already scaled; y points down.
"""
