// The page of a shot that takes footage: its stores and stations, and who hears of what.
import { watched, unwatched } from "./reactive.js";
import { Facts } from "./facts.js";
import { Fields } from "./fields.js";
import { keys } from "./keys.js";
import { Route } from "./route.js";
import { Screen } from "./screen.js";
import { Stage } from "./stage.js";
import { Playback } from "../stores/playback.js";
import { Selection } from "../stores/selection.js";
import { Shot } from "../stores/shot.js";
import { Tracks } from "../stores/tracks.js";
import { Work } from "../stores/work.js";
import { Attempts } from "../stations/attempts.js";
import { Bodies } from "../stations/bodies.js";
import { Deliver } from "../stations/deliver.js";
import { Recipes } from "../stations/recipes.js";
import { Features } from "../stations/features.js";
import { Guests } from "../stations/guests.js";
import { Hands } from "../stations/hands.js";
import { Lens } from "../stations/lens.js";
import { LensLibrary } from "../stations/lens-library.js";
import { Light } from "../stations/light.js";
import { Mattes } from "../stations/mattes.js";
import { Movie } from "../stations/movie.js";
import { Orient } from "../stations/orient.js";
import { Plate } from "../stations/plate.js";
import { Proof } from "../stations/proof.js";
import { PatchReel } from "../stations/reel.js";
import { Solve } from "../stations/solve.js";
import { Constraints } from "../stations/constraints.js";
import { Survey } from "../stations/survey.js";
import { Track } from "../stations/track.js";

const STATIONS = ["plate", "lens", "track", "solve", "orient", "proof", "deliver"];
/** What the page is made of, by the names that templates know. */
const PARTS = {
  work: Work, tracks: Tracks, selection: Selection, playback: Playback, facts: Facts, screen: Screen, stage: Stage,
  plate: Plate, bodies: Bodies, lens: Lens, library: LensLibrary, track: Track, hands: Hands, mattes: Mattes,
  solve: Solve, attempts: Attempts, features: Features, survey: Survey, constraints: Constraints, orient: Orient, proof: Proof, guests: Guests, light: Light, movie: Movie, reel: PatchReel, deliver: Deliver, recipes: Recipes,
};

/** Builds the page; `nextTick` waits until what is shown follows. */
function built(id, nextTick) {
  const fields = new Fields(nextTick);
  const page = unwatched({ nextTick, world: { cameras: [], points: [] } });
  page.shot = watched(new Shot(page, id));
  page.route = watched(new Route(page, STATIONS));
  for (const [name, Part] of Object.entries(PARTS)) page[name] = watched(new Part(page));

  page.redraw = () => page.stage.redraw();
  page.restore = () => fields.restore();
  /** A new view of the shot. */
  page.follow = async () => {
    fields.kept();
    page.lens.follow();
    page.plate.look();
    await Promise.all([page.tracks.follow(), page.stage.follow(), page.guests.follow()]);
    page.attempts.follow();
    page.asked();
    page.redraw();
  };
  /** What is asked of the server about what is chosen here. */
  page.asked = () => {
    page.hands.askPlace();
    page.hands.askCompared();
    page.features.ask();
    page.proof.ask();
    page.reel.follow();
  };
  page.selected = () => {
    page.asked();
    if (page.world.points.length) page.spaceView?.show(page.world, page.playback.frame, page.selection.ids);
    page.redraw();
  };
  page.sought = () => {
    page.spaceView?.at(page.playback.frame);
    if (!page.playback.playing) page.asked();
    page.redraw();
  };
  page.wentTo = () => {
    page.asked();
    page.redraw();
  };
  page.findingsAt = (station) => (station === "lens" ? page.lens.live?.findings ?? [] : page.shot.findings.filter((f) => f.station === station));
  page.showThing = ({ frame, track, straight }) => {
    if (straight !== undefined) return page.lens.show(straight);
    if (track !== undefined) page.selection.pick([track], false);
    if (frame !== undefined) page.playback.seek(frame);
  };
  return page;
}

export const footage = () => ({
  ready: false,
  ...Object.fromEntries(["shot", "route", ...Object.keys(PARTS)].map((name) => [name, null])),

  async init() {
    const page = built(Number(this.$root.dataset.shot), () => this.$nextTick());
    // Most of what scripts weigh is the view of space, which no other page needs.
    const loading = import("../views/space-view.js");
    loading.catch(() => {});
    await page.shot.open();
    page.route.open("plate");
    page.playback.open();
    page.solve.open();
    page.lens.open();
    page.hands.open();
    page.mattes.open();
    page.orient.open();
    page.guests.open();
    for (const name of ["shot", "route", ...Object.keys(PARTS)]) this[name] = page[name];
    this.ready = true;
    await this.$nextTick();
    page.stage.open(this.$refs);
    page.refs = unwatched({ ...this.$refs });
    await page.stage.openSpace(loading, this.$refs);
    const pressed = keys(page);
    window.addEventListener("keydown", pressed);
    const released = () => (page.lens.keepNudge(), page.hands.keepNudge(), page.orient.keepNudge());
    window.addEventListener("keyup", released);
    window.addEventListener("blur", released);
    await page.follow();
    page.shot.listen();
    page.playback.fill();
  },
});
