"""What is said about a piece besides what it is made of: what it hangs on, its note, a finding that
is kept: “hang on bust, pins 140, vee neckline”, “accept bar-tilts at “Bar, connector 1”: meant”.
"""

from msgspec.structs import replace

from maglia.core.assembly.expand import expand
from maglia.core.assembly.rows import written_out
from maglia.core.edits.spots import Edited
from maglia.core.piece.piece import Accepted, Form, FormKind, Neckline, Piece, Posture, catalogue
from maglia.core.sheets.wear import on_body
from maglia.core.values.measures import LengthUnit, format_length
from maglia.core.values.record import DomainError
from maglia.phrases.here import Here, Offer
from maglia.phrases.words import Misread, Words, at_commas, text_of, unknown

FORMS: dict[str, FormKind] = {
    "board": "board", "bust": "bust", "wrist": "wrist", "ankle": "ankle", "ear": "ear",
    "mat": "mat",
}  # fmt: skip
NECKLINES: tuple[Neckline, ...] = ("straight", "round", "vee")
POSTURES: tuple[Posture, ...] = ("upright", "easy", "sloping")
SHIFTS = {"neck": "neck_shift_mm", "chest": "chest_shift_mm"}


def hang_offer(words: Words, here: Here) -> Offer:
    """“hang on bust, pins 140, vee neckline, sloping”; “hang on mat, closed”."""
    parts = at_commas(words)
    head = parts[0]
    if len(head) != 3 or head[1].low != "on" or head[2].low not in FORMS:
        raise unknown(head[1:] or head, f"is no form: hang on {', '.join(FORMS)}")
    form = Form(kind=FORMS[head[2].low])
    for part in parts[1:]:
        form = _of_form(form, part)
    changed = replace(here.piece, form=form)
    said = f"hung on {text_of(words[2:])}{_round_it(changed, here.unit)}"
    return Offer(said.capitalize(), lambda: Edited(changed, said, here.spot))


GIRTHS = {"wrist": "bracelet", "ankle": "anklet"}
TOO_LONG_MM = 30.0
"""More than a bracelet that is worn loose."""


def _round_it(piece: Piece, unit: LengthUnit) -> str:
    """What does not fit round a wrist or ankle that a piece of another kind is hung on, and what
    would; empty where it fits or nothing is known."""
    sort, wraps = GIRTHS.get(piece.form.kind), piece.wraps
    try:
        body = on_body(expand(replace(piece, sort=sort, wraps=1.0))) if sort else None
    except DomainError:
        return ""
    if body is None or body.at_least or body.needed_mm <= 0:
        return ""
    over = body.has_mm - wraps * body.needed_mm
    if -TOO_LONG_MM / 10 <= over <= TOO_LONG_MM:
        return ""
    turns = max(round(body.has_mm / body.needed_mm), 1)
    much = format_length(abs(over), unit, with_unit=True)
    fits = format_length(wraps * body.needed_mm, unit, with_unit=True)
    way = "long" if over > 0 else "short"
    how = f"{much} too {way} for the {piece.form.kind} of {piece.wearer.role}"
    would = f"length {fits} would fit"
    return f"; it is {how}: {would}" + (f", or {turns} turns" if turns > 1 and over > 0 else "")


def _of_form(form: Form, words: Words) -> Form:
    low = [word.low for word in words]
    amount = words[-1].amount
    if low[0] == "pins" and len(words) == 2 and amount is not None:
        return replace(form, pins_mm=amount.mm("mm"))
    if low[-1] == "neckline" and len(words) == 2 and low[0] in NECKLINES:
        return replace(form, neckline=low[0])
    if len(words) == 1 and low[0] in POSTURES:
        return replace(form, posture=low[0])
    if len(words) == 1 and low[0] in ("open", "closed"):
        return replace(form, laid=low[0])
    if len(words) == 3 and low[1] == "shift" and low[0] in SHIFTS and amount is not None:
        return replace(form, **{SHIFTS[low[0]]: amount.mm("mm")})
    raise unknown(words, "was not understood; of a form are said pins 140, vee neckline, sloping, "
                  "closed, neck shift 2, chest shift 2")  # fmt: skip


def note_offer(text: str, words: Words, here: Here) -> Offer:
    """“note: three of the spacers are chipped”: a line of the piece's note."""
    note = text[words[0].end :].lstrip(" :").strip()
    if not note:
        raise Misread("say what is noted: note: three spacers are chipped", *words[0][1:3])
    if len(note) + len(here.piece.note) > 9_999:
        raise Misread("a note of more than 10,000 letters: write it shorter", *words[0][1:3])
    whole = "\n".join(filter(None, (here.piece.note, note)))
    changed = replace(here.piece, note=whole)
    return Offer(f"Note: {note}", lambda: Edited(changed, "noted", here.spot))


def accept_offer(text: str, words: Words, here: Here) -> Offer:
    """“accept bar-tilts at “Bar, connector 1”: meant so”: a finding that is kept."""
    place = next((k for k, word in enumerate(words) if word.sort == "name"), None)
    if place is None or place < 3 or words[place - 1].low != "at":
        raise unknown(words, "is not whole: say accept bar-tilts at “Bar, connector 1”: why")
    code, where = text[words[1].start : words[place - 1].start].strip(), words[place]
    note = text[where.end :].lstrip(" :").strip()
    kept = _accepted(code, where.text[1:-1].strip(), note, here.piece)
    changed = replace(here.piece, accepted=(*here.piece.accepted, kept))
    return Offer(f"Keep {code} at {kept.place}", lambda: Edited(changed, f"kept: {kept.place}",
                                                               here.spot))  # fmt: skip


def _accepted(code: str, place: str, note: str, piece: Piece) -> Accepted:
    """A finding with the run or the part that its place names, so that it follows them."""
    runs = [one.run.name for one in written_out(piece)]
    own = [name for name in runs if place == name or place.startswith((f"{name},", f"{name} "))]
    thing = next((t.id for t in catalogue(piece).values() if t.name == place), None)
    return Accepted(code=code, place=place, note=note, run=max(own, key=len, default=None),
                    thing=thing)  # fmt: skip
