// The world by hand: what becomes of its statement when a handle is dragged. A statement turns by a vector (its
// direction the axis, its length degrees), grows, and then shifts; a drag comes after that, about the world's origin.
import { after, turned, turnOf, vectorOf } from "./turns.js";

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
