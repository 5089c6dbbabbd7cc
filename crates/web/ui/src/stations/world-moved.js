// The world by hand: what becomes of its statement when a handle is dragged. A statement turns by a vector (its
// direction the axis, its length degrees), grows, and then shifts; a drag comes after that, about the world's origin.

const RADIAN = 180 / Math.PI;

/** The turn by a vector in degrees as w, x, y, z. */
function turnOf(degrees) {
  const angle = Math.hypot(...degrees);
  if (angle === 0) return [1, 0, 0, 0];
  const half = angle / RADIAN / 2;
  return [Math.cos(half), ...degrees.map((v) => (Math.sin(half) * v) / angle)];
}

/** First `b`, then `a`. */
function after([aw, ax, ay, az], [bw, bx, by, bz]) {
  return [
    aw * bw - ax * bx - ay * by - az * bz,
    aw * bx + ax * bw + ay * bz - az * by,
    aw * by - ax * bz + ay * bw + az * bx,
    aw * bz + ax * by - ay * bx + az * bw,
  ];
}

/** The vector of a turn, degrees, the short way round. */
function vectorOf(turn) {
  const [w, ...axis] = turn[0] < 0 ? turn.map((v) => -v) : turn;
  const sine = Math.hypot(...axis);
  if (sine < 1e-12) return [0, 0, 0];
  const degrees = 2 * Math.atan2(sine, w) * RADIAN;
  return axis.map((v) => (v / sine) * degrees);
}

/** A place turned. */
function turned(turn, [x, y, z]) {
  const [, ...out] = after(after(turn, [0, x, y, z]), [turn[0], -turn[1], -turn[2], -turn[3]]);
  return out;
}

const round = (v) => Math.round(v * 1e6) / 1e6;
const along = (axis, by) => [0, 1, 2].map((k) => (k === axis ? by : 0));

/** The statement after a drag: `shift` along an axis by units, `turn` about one by degrees, `scale` by a factor. */
export function dragged(moved, { what, axis, by }) {
  const { turn_deg, shift_m, scale } = moved;
  if (what === "shift") return { ...moved, shift_m: shift_m.map((v, k) => round(v + along(axis, by)[k])) };
  if (what === "scale") return { ...moved, scale: round(scale * by), shift_m: shift_m.map((v) => round(v * by)) };
  const turn = turnOf(along(axis, by));
  return { ...moved, turn_deg: vectorOf(after(turn, turnOf(turn_deg))).map(round), shift_m: turned(turn, shift_m).map(round) };
}
