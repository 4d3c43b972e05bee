"""Instruments: lines as they come, and the stand-ins that speak over a pseudo-terminal."""

import pytest

from maglia.core.values.record import DomainError
from maglia.devices.port import Port, ports
from maglia.devices.readings import Reading, Settings, Steady, read_line
from maglia.devices.stand_ins.instrument import Caliper, Scale
from maglia.devices.stand_ins.pseudo_line import PseudoLine


@pytest.mark.parametrize(
    ("line", "unit", "value", "step"),
    [
        ("4.82 mm", "mm", 4.82, 0.01),
        ("+  4.82mm\r", "mm", 4.82, 0.01),
        ("4,82", "mm", 4.82, 0.01),
        ("  0.1900 in", "mm", 4.826, 0.00254),  # 0.19 × 25.4
        ("\x02 -0.05 mm\x03", "mm", -0.05, 0.01),
        ("N + 12.34 g", "g", 12.34, 0.01),
        ("61.70 ct", "g", 12.34, 0.002),  # 0.2 g a carat
        ("0.012 kg", "g", 12.0, 1.0),
    ],
)
def test_a_line_is_a_number_and_a_unit(line, unit, value, step):
    found = read_line(line, Settings())
    assert found.unit == unit
    assert (found.value, found.step) == pytest.approx((value, step))


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ("OL", "overload"), ("--------", "overload"), ("LOW BATTERY", "battery low"),
        ("4.8~2.1 mm", "not understood"), ("hello", "not understood"),
        ("4.82 V", "no unit of a caliper or scale"),
        ("4.\x078 mm", "not understood"), ("9" * 400, "not understood"),
        ("1." + "0" * 400, "not understood"),
    ],
)  # fmt: skip
def test_what_is_the_matter_with_a_line_is_said(line, said):
    with pytest.raises(DomainError, match=said):
        read_line(line, Settings())


def test_readings_are_at_rest_when_four_agree_to_their_last_place():
    steady = Steady()
    values = (4.0, 4.5, 4.80, 4.81, 4.80, 4.81)
    assert [steady.add(Reading(v, "mm", 0.01)) for v in values] == [False] * 5 + [True]
    assert not steady.add(Reading(4.9, "mm", 0.01))


def heard(line, port, times=30):
    lines = []
    for _ in range(times):
        line.speak(0.1)
        lines += port.take()
    return lines


def heard_after(port):
    for _ in range(5):
        port.take()


def test_a_stand_in_settles_on_what_it_measures_and_has_its_keys():
    made = Caliper()
    made.jitter = 0
    line = PseudoLine(made)
    port = Port(line.name, Settings())
    made.measure(5.234)
    lines = heard(line, port)
    first, last = (read_line(text, Settings()) for text in (lines[0], lines[-1]))
    assert first.value < last.value == 5.23  # to its resolution
    made.zero()
    made.measure(7.234)
    assert read_line(heard(line, port)[-1], Settings()).value == 2.0
    made.next_unit()
    # 2 mm are 0.0787 in; read back 0.0787 × 25.4
    assert heard(line, port)[-1] == "0.0787 in"
    made.hold()
    made.measure(50)
    assert heard(line, port)[-1] == "0.0787 in"
    port.close()
    line.unplug()


def test_faults_come_as_lines_and_unplugging_is_told():
    made = Scale(seed=3)
    line = PseudoLine(made)
    port = Port(line.name, Settings(unit="g"))
    made.battery_low = True
    assert set(heard(line, port, 3)) == {"LOW BATTERY"}
    made.battery_low = False
    made.measure(500)
    assert heard(line, port, 60)[-1] == "OL"
    made.measure(10)
    made.garbles = True
    lines = heard(line, port, 80)
    bad = 0
    for text in lines:
        try:
            read_line(text, Settings(unit="g"))
        except DomainError:
            bad += 1
    assert 5 < bad < len(lines) - 5
    line.unplug()
    with pytest.raises(DomainError, match="is unplugged"):
        heard_after(port)
    port.close()


def test_a_port_that_is_not_there_is_said():
    with pytest.raises(DomainError, match="cannot be opened"):
        Port("/dev/no-such-port", Settings())
    assert isinstance(ports(), list)
