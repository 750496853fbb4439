"""A new winding's turns through the windows of a shell core: every whole turn passes both."""

from greyfell.core.record import Core
from greyfell.web.drawings.shapes import Drawing, circle, line, rect, text

MOST_DRAWN = 24


def window(core: Core | None, turns: int) -> Drawing:
    """Cross-section with the turns in both windows; to scale in the iron where its window was
    measured.
    """
    known = core is not None and core.window_width_mm and core.window_height_mm and core.tongue_mm
    tongue, wide, high = (
        (core.tongue_mm, core.window_width_mm, core.window_height_mm)
        if known and core
        else (38.0, 19.0, 57.0)
    )  # type: ignore[misc]
    scale = min(320.0 / (2 * tongue + 2 * wide), 420.0 / (high + tongue))  # type: ignore[operator]
    w, h, t = wide * scale, high * scale, tongue * scale  # type: ignore[operator]
    total, full = 2 * t + 2 * w, h + t
    x0, y0 = 40.0, 34.0
    told = "iron to scale, turns not" if known else "not to scale: the window is not measured"
    drawing = Drawing(
        total + 80,
        full + 84,
        f"{turns} turns through both windows",
        f"Shell core in section, {told}.",
    )
    drawing.add(rect(x0, y0, total, full, "core"))
    for i in range(2):
        drawing.add(
            line(x0, y0 + 8 + 8 * i, x0 + total, y0 + 8 + 8 * i, "lamination"),
            line(x0, y0 + full - 8 - 8 * i, x0 + total, y0 + full - 8 - 8 * i, "lamination"),
        )
    left, right, top = x0 + t / 2, x0 + t / 2 + w + t, y0 + t / 2
    for x in (left, right):
        drawing.add(rect(x, top, w, h, "window"))
    drawn = min(turns, MOST_DRAWN)
    columns = 1 if drawn <= 6 else 2 if drawn <= 12 else 4
    rows = -(-drawn // columns)
    r = min((w - 12 - 2 * (columns - 1)) / (2 * columns), 0.42 * h / max(rows, 3), 22.0)
    for k in range(drawn):
        column, row = k % columns, k // columns
        y = top + h - 6 - r - row * (2 * r + 2)
        for side, x in (("left", left), ("right", right)):
            offset = r + 6 + column * (2 * r + 2)
            cx = x + w - offset if side == "left" else x + offset
            drawing.add(circle(cx, y, r, "turn-skin"), circle(cx, y, r * 0.68, "turn-copper"))
            if r > 9:
                drawing.add(text(cx, y + 4.5, str(k + 1), "t t-turn", "middle"))
        if k == 0:
            drawing.add(line(left + w + 2, y, right - 2, y, "turn-join"))
    drawing.add(text(x0 + total / 2, top + h / 2 - 6, "tongue", "t on-core", "middle"))
    if known:
        drawing.add(
            text(x0 + total / 2, top + h / 2 + 12, f"{tongue:g} mm", "t mono on-core", "middle")
        )
    drawing.add(
        text(left + w / 2, y0 - 10, "one side", "t t-small quiet", "middle"),
        text(right + w / 2, y0 - 10, "the other", "t t-small quiet", "middle"),
    )
    words = (
        f"{turns} whole {'turn' if turns == 1 else 'turns'}: in one window, back through the other"
    )
    drawing.add(text(x0 + total / 2, y0 + full + 22, words, "t", "middle"))
    if turns > drawn:
        drawing.add(
            text(
                x0 + total / 2,
                y0 + full + 40,
                f"the first {drawn} drawn; {told}",
                "t t-small quiet",
                "middle",
            )
        )
    else:
        drawing.add(text(x0 + total / 2, y0 + full + 40, told, "t t-small quiet", "middle"))
    return drawing
