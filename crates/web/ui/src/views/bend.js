// The undistorted picture: a mesh from the server says where its px lie on the plate. Here it
// is only looked at; nothing that is kept is computed from it.

/** Interpolates a mesh over a picture of `size`; continues straight on beyond its border. */
function lookup(mesh, size) {
  const { columns, rows, places } = mesh;
  return (x, y) => {
    const u = (x / size[0]) * columns;
    const v = (y / size[1]) * rows;
    const i = Math.min(columns - 1, Math.max(0, Math.floor(u)));
    const j = Math.min(rows - 1, Math.max(0, Math.floor(v)));
    const [fu, fv] = [u - i, v - j];
    const at = 2 * (j * (columns + 1) + i);
    const below = at + 2 * (columns + 1);
    return [0, 1].map((k) => (1 - fv) * ((1 - fu) * places[at + k] + fu * places[at + 2 + k]) + fv * ((1 - fu) * places[below + k] + fu * places[below + 2 + k]));
  };
}

/** Between the plate and its undistorted picture. */
export class Bend {
  constructor({ size, undistorting, distorting }, plate) {
    Object.assign(this, { size, mesh: undistorting, plate });
    this.toStraight = lookup(distorting, plate);
    this.toPlate = lookup(undistorting, size);
  }
}

/** Shown smaller than this, a picture is made smaller first; a mesh stretches it by less than the rest. */
export const ENOUGH = 0.8;
