"""How joints are made in this job, and what follows from it. Both ways have their followers."""

from molvik.model.job import Settings

CRIMPED = (
    "crimp with the tool made for the splice and tug it; adhesive sleeve over it. It stays "
    "flexible, but a crimp in the wrong size or by the wrong tool pulls out."
)
SOLDERED = (
    "lay the strands into each other, solder with rosin flux, adhesive sleeve over it. Lowest "
    "resistance, but solder stiffens the strands beside it: where the loom flexes, crimp instead, "
    "or tie it down a hand's breadth either side."
)
"""Common practice, both."""


def repair_method_text(settings: Settings) -> str:
    """Return how a joint is made in this job, in words."""
    made = SOLDERED if settings.joints == "soldered" else CRIMPED
    stagger = round(settings.stagger_m * 1000)
    return f"Sleeve on the wire first; neighbouring joints {stagger} mm apart; {made}"


LIKE = {
    "like with like": "same colours, same covering, so that it looks as it was made.",
    "better where hidden": "as it was where it shows; thicker walls, sealed joints out of sight.",
}
"""What each standard of repair means."""
