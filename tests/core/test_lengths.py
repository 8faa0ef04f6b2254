import pytest
from hypothesis import given
from hypothesis import strategies as st

from nebrel.core.errors import InvalidValue
from nebrel.core.lengths import LengthUnits, parse_length


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("12", 12),
        ("12 mm", 12),
        ("0.5 in", 12.7),
        ('1"', 25.4),
        ("2 ft", 609.6),
        ("1' + 6 in", 457.2),
        ("0.5 yd", 457.2),
        ("0,5cm", 5),
        ("4 lines", 1.68),
        ("1 line", 0.42),
        ("6 layers", 0.72),
        ("10 mm + 2 lines - 1 layer", 10.72),
        (" 3 + 4 ", 7),
        ("-2", -2),
        (".5", 0.5),
    ],
)
def test_lengths_as_typed(text: str, mm: float) -> None:
    assert parse_length(text) == pytest.approx(mm)


def test_lines_and_layers_follow_the_workshop() -> None:
    units = LengthUnits(line_mm=0.6, layer_mm=0.3)
    assert parse_length("2 lines + 1 layer", units) == pytest.approx(1.5)


@pytest.mark.parametrize(
    "text", ["", "mm", "3 parsec", "1 2", "12 mm +", "nan", "inf", "1e400", "--3"]
)
def test_what_is_not_a_length(text: str) -> None:
    with pytest.raises(InvalidValue):
        parse_length(text)


@given(st.text(max_size=30))
def test_any_text_is_a_length_or_a_clear_refusal(text: str) -> None:
    try:
        assert isinstance(parse_length(text), float)
    except InvalidValue as error:
        assert error.remedy
