"""At which setting an item serves each sound best: its drawn knobs, what that is known from, what is to be heard."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from cata.core.brief import Need, Sound
from cata.core.choose.between import NEAR
from cata.core.choose.whole import Whole
from cata.core.gear import Control, show_position
from cata.core.pool.seen import Node
from cata.said import Said, said
from cata.services.choice.nodes import Playing
from cata.services.choice.pooling import Gathered
from cata.services.choice.views import SettingFor, ToHear
from cata.services.flights.showing import setting_view


def settings_of(
    ident: int, controls: Sequence[Control], need: Need, whole: Whole, gathered: Gathered
) -> list[SettingFor]:
    """For each sound the setting that serves it best: played, measured, or between measured ones."""
    found = []
    for sound in need.sounds:
        node = whole.setting_for(ident, sound.key)
        off = whole.off(sound)
        if off is not None and off > whole.fit_for(ident, sound):
            found.append(SettingFor(sound=sound.name, knobs=[], said=Said("off", "leave it off")))
        elif node is not None and controls:
            between = whole.evidence.place(node)
            at = gathered.settings.get(node, {}) if between is None else between[1].positions
            # What was drawn between measured settings is as good as noted.
            noted = gathered.noted.get(node, frozenset(at))
            knobs = [setting_view(one, at.get(one.key) if one.key in noted else None) for one in controls]
            known = _known(ident, sound, whole, gathered, node)
            hear = _to_hear(controls, gathered, at, [node] if between is None else between[0].nodes)
            found.append(SettingFor(sound=sound.name, knobs=knobs, said=known, hear=hear))
    return found


def _known(ident: int, sound: Sound, whole: Whole, gathered: Gathered, node: Node) -> Said:
    if whole.evidence.place(node) is None:
        playing = gathered.heard.get(node, Playing())
        return Said("measured", "measured so") if playing.probe_id else Said("played", "played so")
    low, high = whole.span_for(ident, sound)
    words = "nobody set it so yet: drawn between measured settings, {low:.0f} to {high:.0f} % of this sound"
    return said("between", words, low=100 * low, high=100 * high)


def _to_hear(
    controls: Sequence[Control], gathered: Gathered, at: Mapping[str, float], nodes: Sequence[Node]
) -> ToHear | None:
    """The nearest of some settings that was played, where it is near enough to stand for this one."""
    usual = {control.key: control.default for control in controls}

    def off(node: Node) -> float:
        there = usual | gathered.settings[node]
        return max((abs(there[key] - position) for key, position in (usual | dict(at)).items()), default=0.0)

    heard = [node for node in nodes if node in gathered.heard]
    node = min(heard, key=off, default=None)
    if node is None or off(node) > NEAR:
        return None
    playing = gathered.heard[node]
    there = usual | gathered.settings[node]
    moved = [one for one in controls if abs(there[one.key] - at.get(one.key, one.default)) > 0.02]
    text = ", ".join(f"{one.name} {show_position(one, there[one.key])}" for one in moved)
    if playing.probe_id:
        return ToHear(key=f"setting-{playing.probe_id}", text=text)
    return ToHear(flight_id=playing.flight_id, test_id=playing.test_id, contender_id=playing.contender_id, text=text)
