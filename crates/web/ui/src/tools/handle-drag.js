// What dragging a handle means, in space and over the plate.

const INKS = ["--along", "--up", "--across"];
const GRAB_PX = 11;

/** The colour of a part's knob. */
export const inkOf = (what, axis) => (what === "scale" ? "--chosen" : INKS[axis]);
/** The colour of a part's line: a rod is banded, by turns in its own colour and in chalk. */
export const bandInk = (what, axis, k) => (what === "shift" && k % 2 ? "--chalk" : inkOf(what, axis));

/** Of parts with their knobs on the screen the one under the pointer. */
export function nearestKnob(seen, [x, y]) {
  let best = [GRAB_PX, null];
  for (const [part, [u, v]] of seen) {
    const d = Math.hypot(u - x, v - y);
    if (d < best[0]) best = [d, part];
  }
  return best[1];
}

/** How many steps a drag is, of which one goes `way`. */
export const stepsOf = ([x, y], from, to) => ((to[0] - from[0]) * x + (to[1] - from[1]) * y) / (x * x + y * y);

/** What so many steps of a part come to: units along an axis, degrees about it, a factor. */
export function dragBy({ what, axis }, steps, arm) {
  const by = { shift: steps * arm, turn: (steps * 180) / Math.PI, scale: Math.max(0.05, 1 + steps) }[what];
  return { what, axis, by };
}

/** The drag that takes back another. */
export const undone = ({ what, axis, by }) => ({ what, axis, by: what === "scale" ? 1 / by : -by });
