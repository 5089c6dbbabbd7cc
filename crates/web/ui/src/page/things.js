// Things of lists, told apart by their ids.

/** What leads from one list to another: things without an id are new. */
export function differing(before, after) {
  const kept = new Map(before.map((thing) => [thing.id, JSON.stringify(thing)]));
  const stays = new Set(after.map((thing) => thing.id));
  return {
    add: after.filter((thing) => !thing.id),
    change: after.filter((thing) => thing.id && kept.get(thing.id) !== JSON.stringify(thing)),
    remove: [...kept.keys()].filter((id) => !stays.has(id)),
  };
}
