// Turns as they are typed and kept: by a vector (its direction the axis, its length degrees), or about up, along and
// across one after the other; composed as w, x, y, z.

const RADIAN = 180 / Math.PI;

/** The turn by a vector in degrees as w, x, y, z. */
export function turnOf(degrees) {
  const angle = Math.hypot(...degrees);
  if (angle === 0) return [1, 0, 0, 0];
  const half = angle / RADIAN / 2;
  return [Math.cos(half), ...degrees.map((v) => (Math.sin(half) * v) / angle)];
}

/** First `b`, then `a`. */
export function after([aw, ax, ay, az], [bw, bx, by, bz]) {
  return [
    aw * bw - ax * bx - ay * by - az * bz,
    aw * bx + ax * bw + ay * bz - az * by,
    aw * by - ax * bz + ay * bw + az * bx,
    aw * bz + ax * by - ay * bx + az * bw,
  ];
}

/** The vector of a turn, degrees, the short way round. */
export function vectorOf(turn) {
  const [w, ...axis] = turn[0] < 0 ? turn.map((v) => -v) : turn;
  const sine = Math.hypot(...axis);
  if (sine < 1e-12) return [0, 0, 0];
  const degrees = 2 * Math.atan2(sine, w) * RADIAN;
  return axis.map((v) => (v / sine) * degrees);
}

/** A place turned. */
export function turned(turn, [x, y, z]) {
  const [, ...out] = after(after(turn, [0, x, y, z]), [turn[0], -turn[1], -turn[2], -turn[3]]);
  return out;
}

/** The turn about up, about along and about across, degrees: about up last, in the world's axes. */
const ofGuest = ([up, along, across]) => after(turnOf([0, up, 0]), after(turnOf([along, 0, 0]), turnOf([0, 0, across])));

/** Degrees about up, along and across of a turn. */
function guestOf(turn) {
  const [x, y, z] = [[1, 0, 0], [0, 1, 0], [0, 0, 1]].map((axis) => turned(turn, axis));
  const along = Math.asin(Math.max(-1, Math.min(1, -z[1])));
  // Turned on its face, up and across turn about one axis: all of it is said about up.
  if (Math.abs(z[1]) > 1 - 1e-9) return [Math.atan2(-x[2], x[0]), along, 0].map((v) => v * RADIAN);
  return [Math.atan2(z[0], z[2]), along, Math.atan2(x[1], y[1])].map((v) => v * RADIAN);
}

/** How a guest is turned, about up, along and across, after a turn about an axis of the world; about up it stays a sum. */
function guestTurned(turn_deg, axis, degrees) {
  if (axis === 1) return [turn_deg[0] + degrees, turn_deg[1], turn_deg[2]];
  const by = turnOf([0, 1, 2].map((k) => (k === axis ? degrees : 0)));
  return guestOf(after(by, ofGuest(turn_deg)));
}

/** A guest's scale stays within these. */
const SCALES = [1e-4, 1e4];

/** How a guest lies after a drag of its handle: along an axis by units, about one by degrees, larger by a factor. */
export function lieDragged(lie, { what, axis, by }) {
  if (what === "shift") return { ...lie, shift_m: lie.shift_m.with(axis, lie.shift_m[axis] + by) };
  if (what === "turn") return { ...lie, turn_deg: guestTurned(lie.turn_deg, axis, by) };
  return { ...lie, scale: Math.min(SCALES[1], Math.max(SCALES[0], lie.scale * by)) };
}
