"""What fits say, for people and as plain values."""

from typing import Any

from maglia.core.fit.found import Answer, Fitted, Residual, Standing
from maglia.core.fit.wishes import words
from maglia.core.values.measures import MM_PER, LengthUnit


def fitted_lines(fitted: Fitted) -> list[str]:
    """A solved fit for people: the wish, its figures, the next best, what stands in the way."""
    lines = [f"{fitted.fit.name}: {words(fitted.fit)}{' (locked)' if fitted.fit.locked else ''}"]
    lines += [f"  {residual_words(r)}" for r in fitted.best.residuals]
    if fitted.hindrance:
        lines.append(f"  stands in the way: {fitted.hindrance}")
    sides = [("shorter", fitted.below), ("longer", fitted.above)]
    sides += [(f"answer {k}", other) for k, other in enumerate(fitted.others, 2)]
    for name, answer in sides:
        if answer is not None:
            off = ", ".join(f"{r.off:+.1f}" for r in answer.residuals)
            lines.append(f"  {name}: {'; '.join(answer.changed) or 'as it is'} (off {off})")
    return lines


def residual_words(r: Residual, shown: LengthUnit = "mm") -> str:
    """“fall of Tier 2: 66.5 mm, wished 65.0, +1.5”, lengths in the display unit."""
    own = shown if r.unit == "mm" else r.unit
    share = MM_PER[shown] if r.unit == "mm" else 1.0
    unit = own if own == "°" else f" {own}"
    bound = "" if r.bound == "equal" else f"{r.bound} "
    digits = {"mm": ".1f", "cm": ".2f", "in": ".2f", "gf": ".1f", "°": ".1f"}.get(own, "g")
    left = "kept" if r.bound != "equal" else "exact"
    if abs(r.off) >= 0.05:
        left = f"{r.off / share:+{digits}}"
    return (
        f"{r.what}: {r.got / share:{digits}}{unit}, wished {bound}{r.wished / share:{digits}}, "
        f"{left}{'' if r.met else ', not met'}"
    )


def worst_words(stand: Standing, shown: LengthUnit = "mm") -> str:
    """The figure furthest off, or what stands in the way, in a few words."""
    if stand.hindrance:
        return stand.hindrance
    if not stand.residuals:
        return "nothing to measure yet"
    worst = max(stand.residuals, key=lambda r: (not r.met, abs(r.off)))
    return residual_words(worst, shown)


def fitted_json(fitted: Fitted) -> dict[str, Any]:
    return {
        "name": fitted.fit.name,
        "kind": fitted.fit.kind,
        "wish": words(fitted.fit),
        "locked": fitted.fit.locked,
        "met": fitted.met,
        "hindrance": fitted.hindrance,
        "figures": figures(fitted.best.residuals),
        "below": _answer(fitted.below),
        "above": _answer(fitted.above),
        "others": [_answer(other) for other in fitted.others],
    }


def _answer(answer: Answer | None) -> dict[str, Any] | None:
    if answer is None:
        return None
    return {"changed": list(answer.changed), "figures": figures(answer.residuals)}


def figures(residuals: tuple[Residual, ...]) -> list[dict[str, Any]]:
    """Residuals as plain values, the same in the report and in the answer of a fit."""
    return [
        {
            "what": r.what,
            "wished": round(r.wished, 4),
            "got": round(r.got, 4),
            "residual": round(r.off, 4),
            "allowed": round(r.allowed, 4),
            "bound": r.bound,
            "unit": r.unit,
        }
        for r in residuals
    ]
