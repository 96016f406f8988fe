"""Verdicts: what a test on site says about a surface. Pure functions of what was written down.

A verdict is "pass", "doubt" or "fail", with what it means for the work in a sentence a crew acts on.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from amber_gable.core.knowledge import SiteTests

Result = Literal["pass", "doubt", "fail"]


@dataclass(frozen=True)
class TestVerdict:
    """The result of a test.

    Parameters
    ----------
    result : {"pass", "doubt", "fail"}
    headline : str
        The answer in a few words.
    means : str
        What follows for the work.
    value, limit : float or None
        What was measured and what it was held against, where it is a number.
    """

    result: Result
    headline: str
    means: str
    value: float | None = None
    limit: float | None = None


@dataclass(frozen=True)
class Subject:
    """Subject of a test: the family of its substrate, and whether it is a deck."""

    family: str
    is_deck: bool = False


def _of(result: Result, headline: str, means: str, value: float | None = None, limit: float | None = None) -> TestVerdict:
    return TestVerdict(result, headline, means, value, limit)


def rub(values: dict[str, Any], subject: Subject, t: SiteTests) -> TestVerdict:
    """Chalk rub, rated 10 (no dust) to 2 (heavy), as in ASTM D4214 (handbook 5)."""
    rating = float(values["rating"])
    if rating >= t.chalk_doubt_below:
        return _of("pass", "Hardly any chalk", "Wash, then coat as planned.", rating, t.chalk_doubt_below)
    if rating >= t.chalk_fail_below:
        means = "Wash and rub again when dry: what still comes off decides for a stabilising primer."
        return _of("doubt", "Some chalk", means, rating, t.chalk_doubt_below)
    if subject.family == "masonry":
        means = "Chalking or soft masonry: wash, then a stabiliser or masonry conditioner before any coat."
    else:
        means = "Wash until the rub is clean, or prime with one made for chalk: nothing else holds on dust."
    return _of("fail", "Heavy chalk", means, rating, t.chalk_fail_below)


def water_drop(values: dict[str, Any], subject: Subject, t: SiteTests) -> TestVerdict:
    """Seconds until a drop on wood has soaked in (handbook 5)."""
    seconds = float(values["soaks_after_s"])
    if seconds <= t.water_soaks_s:
        return _of("pass", "Soaks in", "The wood takes a coat: ready.", seconds, t.water_soaks_s)
    if seconds < t.water_beads_s:
        return _of("doubt", "Soaks in slowly", "Clean or sand a patch, and let a drop fall again.", seconds, t.water_soaks_s)
    return _of("fail", "Beads", "Mill glaze or an old sealer: wait, clean or sand until it soaks in.", seconds, t.water_beads_s)


def tape_pull(values: dict[str, Any], subject: Subject, t: SiteTests) -> TestVerdict:
    """Fibres on the tape after a pull from bare wood (handbook 5)."""
    fibres = values["fibres"]
    if fibres == "none":
        return _of("pass", "Tape comes off clean", "The wood is firm: ready.")
    if fibres == "few":
        return _of("doubt", "A few fibres", "Sand lightly, dust off, pull again elsewhere.")
    return _of("fail", "Fibres come off", "Dead wood on the surface: sand again to sound wood.")


def cross_cut(values: dict[str, Any], subject: Subject, t: SiteTests) -> TestVerdict:
    """Cross-cut adhesion, rated 5 (nothing lifts) to 0, ASTM D3359 (handbook 5)."""
    rating = float(values["rating"])
    if rating >= t.adhesion_pass:
        return _of("pass", "Old paint holds", "It may stay and be painted over.", rating, t.adhesion_pass)
    if rating >= t.adhesion_doubt:
        means = "A test patch of 7 to 14 days before a firm price; scrape where it lifts."
        return _of("doubt", "Old paint holds in part", means, rating, t.adhesion_pass)
    return _of("fail", "Old paint lets go", "Remove more: whatever is put on it comes off with it.", rating, t.adhesion_doubt)


def moisture_limit_pct(subject: Subject, t: SiteTests) -> float:
    if subject.family in ("masonry", "roofing"):
        return t.masonry_moisture_pct
    return t.wood_deck_moisture_pct if subject.is_deck else t.wood_siding_moisture_pct


def moisture(values: dict[str, Any], subject: Subject, t: SiteTests) -> TestVerdict:
    """Meter readings [%]: the worst decides, the mean is told (handbook 3 and 5)."""
    readings: Sequence[float] = values["readings_pct"]
    worst, mean = max(readings), sum(readings) / len(readings)
    limit = moisture_limit_pct(subject, t)
    said = f"worst {worst:.1f} %, mean {mean:.1f} % of {len(readings)}"
    if worst <= limit - t.moisture_doubt_pct:
        return _of("pass", f"Dry: {said}", "Ready as far as moisture goes.", worst, limit)
    if worst <= limit:
        return _of(
            "doubt", f"Just dry: {said}", "Within the limit, but near it: read again on the day, at the worst place first.", worst, limit
        )
    if mean <= limit:
        means = "Wet in places: look for the cause there (gutter, tap, soil, sprinkler), let it dry, read again."
        return _of("fail", f"Wet in places: {said}", means, worst, limit)
    return _of(
        "fail", f"Too wet: {said}", "Wait; expect about three sunny days after a soaking. Paint on it fails from underneath.", worst, limit
    )


def crack_width(values: dict[str, Any], subject: Subject, t: SiteTests) -> TestVerdict:
    """Widest crack [mm]; `t` carries the house rule from which it is cut open (handbook 5, 11.20)."""
    width = float(values["width_mm"])
    if width < t.crack_hairline_mm:
        return _of("pass", "Hairline", "The coating bridges it.", width, t.crack_hairline_mm)
    if width < t.crack_open_mm:
        means = "Exterior mastic or a filling coat; one school cuts it open already. Does it move? Mark its ends with the date."
        return _of("doubt", "Fine crack", means, width, t.crack_open_mm)
    return _of("fail", "Open crack", "Cut open, fill with render or mortar, let it cure; ask what moves.", width, t.crack_open_mm)


def ph(values: dict[str, Any], subject: Subject, t: SiteTests) -> TestVerdict:
    """Surface pH: new masonry before primer, wood after stripper and acid rinse (handbook 5 and 6)."""
    value = float(values["ph"])
    if subject.family in ("masonry", "cement-board", "roofing"):
        if value <= t.masonry_ph_pass:
            return _of("pass", "Low enough", "Within what common primers stand; the label wins.", value, t.masonry_ph_pass)
        if value <= t.masonry_ph_doubt:
            return _of("doubt", "Still alkaline", "Only a primer whose label allows this pH; or wait a week.", value, t.masonry_ph_pass)
        return _of(
            "fail", "Too alkaline", "Wait: new masonry takes about 28 days. Never alkyd on it: it turns to soap.", value, t.masonry_ph_doubt
        )
    if t.neutral_ph_low <= value <= t.neutral_ph_high:
        return _of("pass", "Neutral", "Stripper and cleaner are out; dry it.", value, t.neutral_ph_high)
    if t.neutral_ph_low - 1 <= value <= t.neutral_ph_high + 1:
        return _of("doubt", "Nearly neutral", "Rinse once more and test again.", value, t.neutral_ph_high)
    if value > t.neutral_ph_high:
        return _of("fail", "Alkaline", "Stripper is still in the wood: acid rinse, then water.", value, t.neutral_ph_high)
    return _of("fail", "Acid", "Rinse with water until it is neutral.", value, t.neutral_ph_low)


def magnet(values: dict[str, Any], subject: Subject, t: SiteTests) -> TestVerdict:
    """Magnet test: steel holds it, aluminium does not (handbook 5)."""
    holds, rust = values["holds"] == "yes", values["rust"] == "yes"
    if holds and rust:
        return _of("fail", "Steel, rusting", "Wire-brush to bright metal, rust primer; the bottom edge too.")
    if holds:
        return _of("doubt", "Steel", "Metal primer wherever it is bare; look along the bottom edge for rust.")
    return _of("pass", "Not steel", "Aluminium, zinc or plastic: no rust. Caustic stripper attacks aluminium; never alkyd on zinc.")


def plastic_sheet(values: dict[str, Any], subject: Subject, t: SiteTests) -> TestVerdict:
    """Plastic sheet taped to masonry overnight, as in ASTM D4263 (handbook 5)."""
    hours, under = float(values["hours"]), values["under"]
    if under == "wet":
        return _of("fail", "Moisture under the sheet", "Wait: water comes through the masonry. Find where from.", hours, t.plastic_sheet_h)
    if under == "darker":
        return _of("doubt", "Darker under the sheet", "Damp within: tape a new sheet for another night.", hours, t.plastic_sheet_h)
    if hours < t.plastic_sheet_h:
        return _of("doubt", "Dry, but not long enough", f"Leave it {t.plastic_sheet_h:g} h, overnight.", hours, t.plastic_sheet_h)
    return _of("pass", "Dry under the sheet", "Dry enough to prime.", hours, t.plastic_sheet_h)


def lead(values: dict[str, Any], subject: Subject, t: SiteTests) -> TestVerdict:
    """A lead reading or laboratory result of this component; local law wins over the threshold."""
    amount = float(values["amount"])
    limit = t.lead_mg_cm2 if values["unit"] == "mg/cm2" else t.lead_ppm
    if amount >= limit:
        means = (
            "Lead paint: the firm's certificate, notice, containment and wind check before anything starts. "
            "Larger jobs go to professionals."
        )
        return _of("fail", "Lead", means, amount, limit)
    if values["qualified"] != "yes" or amount >= 0.5 * limit:
        means = "It clears nothing: only a qualified tester's negative clears this component, and a result this near is taken again."
        return _of("doubt", "Below the threshold, not cleared", means, amount, limit)
    means = "This component only. Record it under Gates with tester and certificate; every other component stays as it was."
    return _of("pass", "Negative", means, amount, limit)
