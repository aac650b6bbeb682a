"""A slow listener never blocks work."""

from __future__ import annotations

from cata.tasks.events import Bus


def test_a_slow_listener_loses_its_oldest_events_only() -> None:
    bus = Bus()
    with bus.listen() as listener:
        for number in range(Bus.CAPACITY + 10):
            bus.publish({"n": number})
        first = listener.get_nowait()
        assert first == {"n": 10}
        assert listener.qsize() == Bus.CAPACITY - 1
    bus.publish({"n": -1})
    assert listener.qsize() == Bus.CAPACITY - 1
