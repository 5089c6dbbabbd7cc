// Rails of statements: where they lie on a frame, what becomes of a statement whose rail is moved, and what a rail that is
// drawn once or on two frames can state.

/** Which family a rail is drawn as. */
export const FAMILY = { up: "y", along: "x", across: "z" };

/** Where an end was marked on a frame, if it was. */
function sightOn(end, frame) {
  const sights = end.marked ?? (end.on_plane ? [end.on_plane.sight] : []);
  return sights.find((sight) => sight.frame === frame) ?? null;
}

/** The rail that a statement is drawn by on a frame, if it is. */
export function railOn({ kind, rail, edge, between }, frame) {
  const drawn = kind === "horizon" ? rail : kind === "edge" ? (edge.rail ?? null) : null;
  if (drawn) return drawn.frame === frame ? drawn : null;
  const [a, b] = (between ?? []).map((end) => sightOn(end, frame));
  return a && b ? { frame, a: a.px, b: b.px } : null;
}

/** The statement with another rail on that rail's frame. */
export function withRail(thing, rail) {
  if (thing.kind === "horizon") return { ...thing, rail };
  if (thing.kind === "edge") return { ...thing, edge: { rail } };
  const px = [rail.a, rail.b];
  const moved = (sight, k) => (sight.frame === rail.frame ? { ...sight, px: px[k] } : sight);
  const end = (e, k) => (e.marked ? { marked: e.marked.map((sight) => moved(sight, k)) } : { on_plane: { ...e.on_plane, sight: moved(e.on_plane.sight, k) } });
  return { ...thing, between: thing.between.map(end) };
}

/** The second drawing of an edge from the same end as the first: whoever draws it may begin at either. */
export function alike(first, second) {
  const along = ({ a, b }) => [b.x - a.x, b.y - a.y];
  const [p, q] = [along(first), along(second)];
  return p[0] * q[0] + p[1] * q[1] < 0 ? { ...second, a: second.b, b: second.a } : second;
}

/** The ends of an edge that was drawn on two frames, or lies on a plane. */
export function endsOf(first, second, plane) {
  const sight = (rail, end) => ({ frame: rail.frame, px: rail[end] });
  if (!second) return ["a", "b"].map((end) => ({ on_plane: { sight: sight(first, end), plane } }));
  const other = alike(first, second);
  return ["a", "b"].map((end) => ({ marked: [sight(first, end), sight(other, end)] }));
}
