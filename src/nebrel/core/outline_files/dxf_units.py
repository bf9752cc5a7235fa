"""What a drawing unit of DXF is, by the code in its header ($INSUNITS)."""

IN, FOOT = 25.4, 304.8
SURVEY_FOOT = 1200 / 3937 * 1000
MM_PER_CODE = {
    1: IN, 2: FOOT, 3: 5280 * FOOT, 4: 1.0, 5: 10.0, 6: 1e3, 7: 1e6, 8: IN * 1e-6, 9: IN * 1e-3, 10: 3 * FOOT,
    11: 1e-7, 12: 1e-6, 13: 1e-3, 14: 100.0, 15: 1e4, 16: 1e5, 17: 1e12, 18: 1.495978707e14, 19: 9.4607304725808e18,
    20: 3.0856775814914e19, 21: SURVEY_FOOT, 22: SURVEY_FOOT / 12, 23: 3 * SURVEY_FOOT, 24: 5280 * SURVEY_FOOT,
}  # fmt: skip


def mm_per_unit(code: object) -> float | None:
    """Mm, or None for a file that does not say, or says nothing that is known."""
    try:
        return MM_PER_CODE.get(int(str(code)))
    except ValueError:
        return None
