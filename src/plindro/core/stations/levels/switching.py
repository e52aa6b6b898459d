"""From where each level is drawn: proposed from what changes, and what another choice would show."""

import math
from dataclasses import replace
from itertools import pairwise

from plindro.core.findings import Finding, Severity, metres
from plindro.core.measure.game_view import View
from plindro.core.prop import Level
from plindro.core.stations.levels.settings import LevelsSettings


def view_of(settings: LevelsSettings, diameter: float) -> View:
    """The view in which switches of a prop of a diameter in metres are judged."""
    return View(settings.view_height, settings.vertical_fov, diameter / 2.0)


def with_switches(levels: list[Level], settings: LevelsSettings, diameter: float) -> tuple[list[Level], float]:
    """The levels with the distances from which they are drawn, and the distance past which nothing is, in metres.

    A level is proposed from where what it changes of LOD0 stays within the threshold, and never nearer than the level
    above it. The bias moves all of them.
    """
    view = view_of(settings, diameter)
    # A level that none of the settings' is about is drawn from where it is proposed.
    wanted = {level.index: settings.levels[level.target].switch_distance for level in levels[1:] if level.target >= 0}
    placed = [replace(levels[0], distance=0.0, proposed=0.0, screen_size=1.0)]
    proposed = 0.0
    for level in levels[1:]:
        proposed = max(view.distance(level.change.largest, settings.max_pixel_error), proposed)
        own = wanted.get(level.index)
        distance = settings.switch_bias * (proposed if own is None else own)
        # Close to, the sphere is larger than the view.
        size = view.share(diameter, distance) if distance > 0 else 1.0
        placed.append(replace(level, distance=distance, proposed=settings.switch_bias * proposed, screen_size=size))
    # What is drawn from no distance on is never smaller than the others.
    most = max(level.screen_size for level in placed)
    placed = [level if level.distance > 0 else replace(level, screen_size=most) for level in placed]
    last = settings.cull_distance
    if last is None:
        last = view.distance_of_share(diameter, settings.cull_pixels / view.lines)
    return placed, settings.switch_bias * last


def check_switches(levels: list[Level], last: float, settings: LevelsSettings, diameter: float) -> list[Finding]:
    """Switches in the wrong order, levels that are never drawn, and choices that will be seen."""
    found = []
    view = view_of(settings, diameter)
    for above, level in pairwise(levels):
        if level.distance < above.distance:
            text = (
                f"LOD{level.index} switches at {metres(level.distance)}, nearer than LOD{above.index} at "
                f"{metres(above.distance)}; move its switch further away"
            )
            found.append(Finding("switches-cross", Severity.WARNING, text, level=level.index))
        elif level.distance == above.distance:
            text = (
                f"LOD{above.index} is never drawn: LOD{level.index} shows no more change and switches at the "
                f"same {metres(level.distance)}"
            )
            found.append(Finding("level-never-drawn", Severity.WARNING, text, level=above.index))
        seen = view.pixels(level.change.largest, level.distance / settings.switch_bias)
        if level.distance < level.proposed and seen > 1.001 * settings.max_pixel_error:
            text = (
                f"LOD{level.index} switches at {metres(level.distance)}, where the pixel error is "
                f"{'unlimited' if math.isinf(seen) else f'{seen:.3g} px'}; "
                f"from {metres(level.proposed)} it stays within {settings.max_pixel_error:g} px"
            )
            found.append(Finding("switch-visible", Severity.WARNING, text, level=level.index))
    for level in levels[1:]:
        if level.distance >= last:
            begins = metres(level.distance)
            text = f"LOD{level.index} would switch at {begins}, but beyond {metres(last)} the prop is not drawn"
            found.append(Finding("level-never-drawn", Severity.WARNING, text, level=level.index))
    return found
