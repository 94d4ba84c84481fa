"""Conductors against published tables."""

import pytest

from conftest import awg, metric
from molvik.electrical.conductor import (
    area_mm2,
    equivalence_text,
    neighbours,
    resistance_20_ohm_per_m,
    resistance_ohm_per_m,
)
from molvik.reference import copper

# ASTM B258: number, diameter mm, area mm2, as printed there (from memory of the table).
ASTM_B258 = [
    (22, 0.644, 0.326),
    (20, 0.812, 0.518),
    (18, 1.024, 0.823),
    (16, 1.291, 1.309),
    (14, 1.628, 2.081),
    (12, 2.053, 3.309),
    (10, 2.588, 5.261),
    (8, 3.264, 8.366),
    (6, 4.115, 13.30),
    (4, 5.189, 21.15),
    (2, 6.544, 33.63),
    (-3, 11.684, 107.2),
]

# IEC 60228 class 5, plain copper, largest resistance at 20 deg C, ohm/km (from memory).
IEC_60228_CLASS_5 = [(0.5, 39.0), (1, 19.5), (2.5, 7.98), (6, 3.30), (16, 1.21), (35, 0.554)]


@pytest.mark.parametrize(("number", "diameter_mm", "area"), ASTM_B258)
def test_awg_diameters_and_areas_are_those_of_astm_b258(
    number: float, diameter_mm: float, area: float
) -> None:
    assert copper.awg_diameter_mm(number) == pytest.approx(diameter_mm, rel=1e-3)
    assert area_mm2(awg(number)) == pytest.approx(area, rel=2e-3)


@pytest.mark.parametrize(("area", "mohm"), copper.ISO_6722_MAX_MOHM_PER_M.items())
def test_computed_resistance_stays_below_and_near_the_iso_6722_limit(
    area: float, mohm: float
) -> None:
    # The limit includes undersize strands and lay; pure IACS copper of the nominal section lies
    # below it by up to a tenth.
    computed = copper.RESISTIVITY_OHM_M * copper.STRANDING / (area * 1e-6) * 1000
    assert 0.88 * mohm < computed < 1.005 * mohm
    assert resistance_20_ohm_per_m(metric(area)) * 1000 == pytest.approx(mohm)


@pytest.mark.parametrize(("area", "ohm_per_km"), IEC_60228_CLASS_5)
def test_resistance_is_within_a_tenth_of_iec_60228_class_5(area: float, ohm_per_km: float) -> None:
    assert resistance_20_ohm_per_m(metric(area)) * 1000 == pytest.approx(ohm_per_km, rel=0.1)


def test_awg_resistance_follows_from_iacs_copper() -> None:
    # 14 AWG solid is 8.28 ohm/km at 20 deg C (ASTM B258 with IACS copper); stranded 2 % more.
    assert resistance_20_ohm_per_m(awg(14)) * 1000 == pytest.approx(8.28 * 1.02, rel=3e-3)


def test_copper_is_39_percent_worse_a_hundred_kelvin_hotter() -> None:
    ratio = resistance_ohm_per_m(metric(1), 120) / resistance_ohm_per_m(metric(1), 20)
    assert ratio == pytest.approx(1.393)


def test_two_and_a_half_square_lies_between_14_and_12_awg() -> None:
    below, above = neighbours(metric(2.5), "awg")
    assert below is not None
    assert above is not None
    assert (below.size, above.size) == (awg(14), awg(12))
    # ASTM B258: 2.081 and 3.309 mm2 against 2.5.
    assert below.copper == pytest.approx(2.081 / 2.5 - 1, abs=1e-3)
    assert above.copper == pytest.approx(3.309 / 2.5 - 1, abs=1e-3)
    text = equivalence_text(metric(2.5))
    assert "between 14 AWG and 12 AWG" in text
    assert "Round up to 12 AWG" in text
    assert "14 AWG loses 17%" in text


@pytest.mark.parametrize(
    ("size", "words"),
    [
        (awg(22), "thinner than any; take 0.35 mm²"),
        (metric(120), "thicker than any; 4/0 AWG has 11% less"),
        (awg(14), "between 2 mm² and 2.5 mm²"),
        (metric(0.52), "0.52 mm² is 20 AWG within 1 %"),
    ],
)
def test_equivalence_is_honest_at_the_ends_of_the_range(size: object, words: str) -> None:
    assert words in equivalence_text(size)  # type: ignore[arg-type]
