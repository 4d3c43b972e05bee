"""The maker's workshop: one SQLite file with her parts, units, wearers, rules, and her stock as an
event log. It is exported whole to JSON and read back.
"""
