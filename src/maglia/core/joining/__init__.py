"""The joining plan: what opens, what is closed on the piece, in which order, step by step.

A closing is one event that shuts an opener: a ring, a loop, an openable link, an end of a thread. A
joint is made at the later of its two closings. From openers to cover, order and steps, in this
order; everything that counts rings or says how a piece is made reads the one plan.
"""
