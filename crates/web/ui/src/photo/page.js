// The page of one photograph: its stores and stations, and who hears of what.
import { watched, unwatched } from "../page/reactive.js";
import { Facts } from "../page/facts.js";
import { Fields } from "../page/fields.js";
import { Route } from "../page/route.js";
import { Screen } from "../page/screen.js";
import { Bodies } from "../stations/bodies.js";
import { Deliver } from "../stations/deliver.js";
import { Recipes } from "../stations/recipes.js";
import { Shot } from "../stores/shot.js";
import { Work } from "../stores/work.js";
import { Card } from "./card.js";
import { Checks } from "./checks.js";
import { keys } from "./keys.js";
import { Laid } from "./laid.js";
import { Place } from "./place.js";
import { Rails } from "./rails.js";
import { Table } from "./table.js";

const STATIONS = ["plate", "rails", "orient", "proof", "deliver"];
const PARTS = { work: Work, facts: Facts, screen: Screen, bodies: Bodies, laid: Laid, rails: Rails, place: Place, checks: Checks, card: Card, table: Table, deliver: Deliver, recipes: Recipes };

function built(id, nextTick) {
  const fields = new Fields(nextTick);
  const page = unwatched({});
  page.shot = watched(new Shot(page, id));
  page.route = watched(new Route(page, STATIONS));
  for (const [name, Part] of Object.entries(PARTS)) page[name] = watched(new Part(page));
  page.redraw = () => page.table.redraw();
  /** What is kept, as it is kept. */
  page.show = () => {
    page.laid.follow();
    page.rails.follow();
    page.place.follow();
    page.redraw();
  };
  page.restore = () => {
    fields.restore();
    page.show();
  };
  page.follow = () => {
    fields.kept();
    // While something is under the pointer its drawing stays.
    if (!page.view?.drag) page.show();
  };
  page.wentTo = () => page.redraw();
  page.findingsAt = () => findings(page);
  page.showThing = ({ rail }) => {
    page.route.go("rails");
    page.rails.show(rail);
  };
  return page;
}

function findings({ shot, laid }) {
  const { live } = laid;
  const out = [...shot.findings];
  if (!laid.kept.rails.length) out.push({ level: "warn", text: "Nothing is laid yet. Draw along edges that run with two directions of the scene, two or more of each, or take what the picture offers." });
  else if (live?.error) out.push({ level: "bad", text: live.error });
  if (live?.place_error) out.push({ level: "bad", text: live.place_error });
  return [...out, ...(live?.findings ?? [])];
}

export const photo = () => ({
  ready: false,
  ...Object.fromEntries(["shot", "route", ...Object.keys(PARTS)].map((name) => [name, null])),

  async init() {
    const page = built(Number(this.$root.dataset.shot), () => this.$nextTick());
    await page.shot.open();
    page.laid.follow();
    page.place.follow();
    page.route.open(page.laid.kept.rails.length ? "rails" : "plate");
    for (const name of ["shot", "route", ...Object.keys(PARTS)]) this[name] = page[name];
    this.ready = true;
    await this.$nextTick();
    const shown = page.table.open(this.$refs);
    const pressed = keys(page);
    window.addEventListener("keydown", pressed);
    window.addEventListener("keyup", () => page.rails.keepNudge());
    window.addEventListener("blur", () => page.rails.keepNudge());
    page.shot.listen();
    await shown;
  },
  get focalShown() {
    const { figures } = this.laid;
    return this.shot.state.focal === "unknown" && figures ? figures.focal_text : this.shot.facts.focal;
  },
});
