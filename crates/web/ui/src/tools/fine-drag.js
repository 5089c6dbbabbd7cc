// Dragging a place of the plate: Alt makes the pointer ten times finer.
const STILL_PX = 3;

/** Moves `drag.at` with the pointer; whether it has left the place where it began. */
export function dragOn(drag, e, view) {
  const screen = view.at(e);
  const fine = (e.altKey ? 0.1 : 1) / view.viewport.scale;
  drag.at = [0, 1].map((i) => drag.at[i] + (screen[i] - drag.screen[i]) * fine);
  drag.screen = screen;
  drag.moved ||= Math.hypot(screen[0] - drag.begun[0], screen[1] - drag.begun[1]) >= STILL_PX;
  return drag.moved;
}
