import numpy as np
import pytest

from nebrel.core.data import HeightField
from nebrel.core.heights.relief import Relief
from nebrel.core.heights.section import cut_section
from tests.pictures import ramp


def test_a_ramp_is_a_straight_line_between_its_ends() -> None:
    field = HeightField(ramp(41, 81) * 4, 80, 40)
    found = cut_section(Relief(field), (0, 20), (80, 20), 100)
    assert found.length_mm == 80
    assert (found.low_mm[0], found.high_mm[-1]) == pytest.approx((0, 4))
    middle = (found.low_mm + found.high_mm) / 2
    assert middle == pytest.approx(np.linspace(0, 4, 100), abs=0.03)
    # 4 mm over 80.
    assert np.median(found.slope_deg) == pytest.approx(np.degrees(np.arctan(0.05)), rel=0.02)
    up = cut_section(Relief(field), (20, 0), (20, 40), 50)
    assert np.ptp(up.high_mm) < 1e-5
    assert up.high_mm[0] == pytest.approx(1)


def test_a_spike_of_one_pixel_is_never_lost() -> None:
    mm = np.ones((101, 4001), np.float32)
    mm[50, 1234] = 5
    found = cut_section(Relief(HeightField(mm, 400, 10)), (0, 5), (400, 5), 60)
    assert found.high_mm.max() == pytest.approx(5, abs=0.6)
    assert found.low_mm.min() == 1


def test_nothing_outside_and_where_it_is_cut() -> None:
    field = HeightField(np.full((21, 21), 2, np.float32), 20, 20)
    cover = np.ones((21, 21), np.float32)
    cover[:, 8:13] = 0
    found = cut_section(Relief(field, cover), (-10, 10), (30, 10), 40)
    assert found.high_mm[2] == found.high_mm[37] == 0
    assert found.high_mm[20] == 0
    assert found.low_mm[14] == 2
