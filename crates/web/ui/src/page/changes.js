// What changed in a view since the one that the page has (docs/api.md): a list of places, each with the path
// to it and what stands there now, or a run of elements of a list.

function put(view, path, change) {
  const holder = path.slice(0, -1).reduce((at, step) => at[step], view);
  const last = path[path.length - 1];
  if (change.length === 1) {
    holder[last] = change[0];
    return;
  }
  const [first, gone, come] = change;
  holder[last].splice(first, gone, ...come);
}

/** Applies changes to a view, in place. */
export function apply(view, changes) {
  for (const [path, ...change] of changes) put(view, path, change);
}
