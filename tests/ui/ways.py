"""The shortest way to anything on a page without a mouse: Tab, F6 from part to part, arrows inside a group."""

from __future__ import annotations

MOST = 10
"""Presses of Tab, F6 and their ways back to anything on a page; arrows move inside a group."""

# What a person sees who looks for the shortest way: tab stops, the first stop of each part, groups that have arrows.
WAYS = """
const seen = (e) => e.checkVisibility() && !e.closest('[inert]');
const ALL = 'a[href], button, input, select, textarea, summary, [tabindex]';
const PARTS = 'header nav, header, main nav, main section, main form, main table, main details, main [data-arrows], ' +
  '[data-part]';
const stops = [...document.querySelectorAll(ALL)].filter(
  (e) => !e.matches(':disabled') && e.tabIndex >= 0 && seen(e) && !e.closest('dialog:not([open])'));
const firsts = [...new Set([...document.querySelectorAll(PARTS)].map((p) => stops.find((e) => p.contains(e))))]
  .filter(Boolean).sort((a, b) => stops.indexOf(a) - stops.indexOf(b));
"""
FARTHEST = f"""() => {{ {WAYS}
  let part = 0, since = 0;
  return Math.max(...stops.map((e, i) => {{
    if (firsts[part] === e) {{ part++; since = 0; }} else since++;
    const parts = part ? Math.min(part, firsts.length - part + 1) : Infinity;
    return Math.min(i + 1, stops.length - i, parts + since);
  }}));
}}"""
NEXT = f"""(target) => {{ {WAYS}
  const now = document.activeElement;
  if (now === target) return null;
  // A group inside another is a part of it.
  let group = target.closest('[data-arrows]');
  while (group?.parentElement.closest('[data-arrows]')) group = group.parentElement.closest('[data-arrows]');
  if (group?.contains(now)) {{
    const a = now.getBoundingClientRect(), b = target.getBoundingClientRect();
    // What stands beside it is in its row, whichever of them is taller.
    const beside = Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top) > 8;
    const down = beside ? 0 : b.top - a.top, right = b.left - a.left;
    const held = now.matches('select, input:not([type=checkbox]), [role=slider]') ? 'Control+' : '';
    if (Math.abs(down) > 8) return held + (down > 0 ? 'ArrowDown' : 'ArrowUp');
    return held + (right > 0 ? 'ArrowRight' : 'ArrowLeft');
  }}
  const to = stops.indexOf(group ? stops.find((e) => group.contains(e)) : target);
  const at = stops.indexOf(now);
  const part = firsts.filter((e) => stops.indexOf(e) <= to).length - 1;
  const here = firsts.filter((e) => stops.indexOf(e) <= at).length - 1;
  const byTab = Math.abs(to - at);
  // Behind the last part comes the first, and the other way round.
  const on = (part - here + firsts.length) % firsts.length, back = firsts.length - on;
  const byPart = Math.min(on, back) + to - stops.indexOf(firsts[part]);
  if (byPart < byTab && part !== here) return on <= back ? 'F6' : 'Shift+F6';
  return to > at ? 'Tab' : 'Shift+Tab';
}}"""
