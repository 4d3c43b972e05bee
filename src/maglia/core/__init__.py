"""Pure computation: no window, no files, no clock. Nothing here imports anything above itself.

The hallway: `piece` (what the maker decides) -> `expand` -> `assembly` (every physical part and
joint) -> `lengths`, `count`, `hang`, `checks`, `report`. Millimetres, grams and grams-force inside.
"""
