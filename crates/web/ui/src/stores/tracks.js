// All tracks of the shot, in one piece of memory; what changes comes as changes.
import { bytes } from "../page/api.js";
import { bare, unwatched } from "../page/reactive.js";
import { groupTints } from "../layers/tracks.js";

/** Frames of a track out of its runs. */
function framesOf(runs) {
  const frames = new Int32Array(runs.reduce((sum, [, count]) => sum + count, 0));
  let at = 0;
  for (const [first, count] of runs) for (let k = 0; k < count; k++) frames[at++] = first + k;
  return frames;
}

/** Reads packed tracks (docs/api.md): the header, and in it positions as views of the answer. */
export function unpacked(buffer) {
  const length = new DataView(buffer).getUint32(0, true);
  const head = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, length)));
  let at = 4 + length;
  for (const track of head.tracks) {
    if (!track.runs) continue;
    track.frames = framesOf(track.runs);
    const count = track.frames.length;
    track.xy = new Float32Array(buffer, at, 2 * count);
    track.sigmas = new Float32Array(buffer, at + 8 * count, count);
    at += 12 * count;
    delete track.runs;
  }
  return head;
}

/** What a list becomes by changes: positions that do not come stay. */
export function changed(list, head) {
  if (!head.since) return head.tracks;
  const come = new Map(head.tracks.map((t) => [t.id, t]));
  const gone = new Set(head.gone);
  const kept = list.filter((t) => !gone.has(t.id)).map((t) => {
    const next = come.get(t.id);
    come.delete(t.id);
    return next ? { frames: t.frames, xy: t.xy, sigmas: t.sigmas, ...next } : t;
  });
  return [...kept, ...come.values()];
}

export class Tracks {
  constructor(page) {
    Object.assign(this, { page, seen: 0 });
    this.data = unwatched({ list: unwatched([]), byId: new Map(), tints: new Map(), wanted: "", tag: null, turn: Promise.resolve() });
  }

  get list() {
    return this.data.list;
  }
  of(id) {
    return this.data.byId.get(id) ?? null;
  }
  nameOf(id) {
    return this.of(id)?.name || `t${String(id).padStart(4, "0")}`;
  }

  /** Shows tracks as set aside before the server has said so; those for which that is new. */
  setAside(ids) {
    const taking = ids.map((id) => this.of(id)).filter((t) => t && !t.aside);
    for (const track of taking) track.aside = "culled";
    if (taking.length) this.seen += 1;
    return taking;
  }
  bringBack(tracks) {
    for (const track of tracks) track.aside = null;
    this.seen += 1;
  }

  /** Fetches what changed where something did on which tracks depend; one after the other, so that what was asked
   *  for last is what stands. */
  follow() {
    const asked = this.data.turn.then(() => this.fetch());
    this.data.turn = asked.catch(() => {});
    return asked;
  }
  async fetch() {
    const { shot } = this.page;
    const { run, attempt, culled, kept_movers, hands, notes, range, mattes } = bare(shot.view).state;
    const drawn = mattes.filter((m) => m.source.kind === "drawn");
    // Legs of hand tracks arrive, and suspects change, when their work ends.
    const ended = shot.view.jobs.find((j) => (j.kind === "hand" || j.kind === "judge") && j.state === "done");
    const wanted = JSON.stringify([run, attempt, culled, kept_movers, hands, notes, drawn, range, ended?.id]);
    const { data } = this;
    if (data.wanted === wanted) return;
    const head = unpacked(await bytes(`${shot.address}/tracks.bin${data.tag ? `?since=${data.tag}` : ""}`));
    // What a getter gives back is watched unless it says otherwise.
    data.list = unwatched(changed(data.list, head));
    data.byId = new Map(data.list.map((t) => [t.id, t]));
    data.tints = groupTints(data.list);
    Object.assign(data, { tag: head.tag, wanted });
    this.seen += 1;
  }
}
