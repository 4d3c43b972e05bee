"""Lays a cutting plan out link by link, written apart from the planner, and trusts nothing."""


def reads(pattern, start, links):
    return [pattern[(start + k) % len(pattern)] for k in range(links)]


def read_alike(pattern, links, start, wanted):
    """Whether a stretch begun at a phase reads as wanted from one of its ends."""
    want, own = reads(pattern, wanted, links), reads(pattern, start, links)
    return own in (want, want[::-1])


def laid_out(pattern, openable, keep_mm, lots, rows, wanted):
    """Worth of a plan by its own links: new, short, touched, sacrificed, longest, and the links of
    what is missing. `lots` are name: (links, first phase); `rows` name, links, first phase, pieces
    (links, start), sacrificed, off-cut; `wanted` (links, first phase or None). Raises
    AssertionError where it cannot be so."""
    left = {name: links for name, (links, _) in lots.items()}
    new = short = touched = lost = 0
    todo = list(wanted)
    for name, links, first, pieces, sacrificed, offcut in rows:
        assert pieces, f"{name} is cut for nothing"
        if name in lots:
            assert lots[name] == (links, first)
            del left[name]  # and so once only
        else:
            new += 1
        marks = []
        for n, start in pieces:
            while (first + len(marks)) % len(pattern) != start:
                marks.append("dropped")
            marks += ["piece"] * n
            if not openable and len(marks) < links:
                marks.append("cut")
            own = next(w for w in todo if w[0] == n
                       and (w[1] is None or read_alike(pattern, n, start, w[1])))  # fmt: skip
            todo.remove(own)
        assert len(marks) <= links, f"{name} is too short"
        rest = links - len(marks)
        assert rest == offcut
        assert marks.count("cut") + marks.count("dropped") == sacrificed
        long = sum(reads(pattern, (first + len(marks)) % len(pattern), rest))
        touched += 1
        lost += sacrificed
        short += marks.count("dropped")
        if rest and long >= keep_mm - 1e-6:
            left[name] = rest
        else:
            short += rest
    longest = max(left.values(), default=0)
    return (new, short, touched, lost, longest), sorted(n for n, _ in todo)
