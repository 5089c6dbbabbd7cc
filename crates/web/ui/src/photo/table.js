// The photograph on the stage: its picture or a calm print of it, what is drawn over it and what can be grabbed,
// station by station.
import { grid } from "../layers/plate.js";
import * as rods from "../layers/rods.js";
import * as survey from "../layers/survey.js";
import { unwatched } from "../page/reactive.js";
import { PhotoView } from "../views/photo-view.js";
import { FAMILIES } from "./families.js";
import { axisOf } from "./place.js";
import { calmPrint } from "./print.js";

const HINTS = {
  plate: "Photograph",
  rails: "Press on an edge and draw along it · Alt ten times finer · S settles it on the edge · Shift begins on an end that is taken",
  orient: "Drag the station mark over the ground · draw along a length that you know",
  proof: "Pull the box by its corners · Measure draws a length",
  deliver: "Photograph",
};
const TRIES = 200;

export class Table {
  constructor(page) {
    Object.assign(this, { page, loupe: false, calm: localStorage.getItem("calm") !== "no" });
    this.data = unwatched({ picture: null, print: null });
  }
  get hint() {
    return HINTS[this.page.route.station];
  }
  get spoken() {
    const { route, rails, laid } = this.page;
    if (route.at("rails")) return `Photograph; ${rails.spoken}. N takes the next rail, arrows move it.`;
    return `Photograph; ${laid.figures ? laid.figures.focal_text : "no camera yet"}.`;
  }
  open(refs) {
    const { page } = this;
    page.view = unwatched(new PhotoView(refs.plate, refs.loupe, page.shot.width, page.shot.height, this.host()));
    return this.load();
  }
  async load() {
    const { shot, view } = this.page;
    for (let tries = 0; tries < TRIES; tries++) {
      const response = await fetch(`${shot.address}/frames/${shot.plate.first}`);
      if (response.ok) {
        this.data.picture = await createImageBitmap(await response.blob());
        view.picture = this.data.picture;
        this.redraw();
        this.data.print = await calmPrint(this.data.picture);
        this.redraw();
        return;
      }
      await new Promise((done) => setTimeout(done, 150));
    }
    shot.refuse("The photograph cannot be shown. Look at the messages of the server.");
  }
  toggleCalm() {
    this.calm = !this.calm;
    localStorage.setItem("calm", this.calm ? "yes" : "no");
    this.redraw();
  }
  redraw() {
    this.page.view?.draw();
  }
  fit() {
    this.page.view.viewport.fit();
    this.redraw();
  }
  oneToOne() {
    this.page.view.viewport.oneToOne();
    this.redraw();
  }

  paint(view) {
    const { route, laid } = this.page;
    const { ctx, viewport } = view;
    const { answer } = laid.now;
    if (route.at("rails")) return this.paintRails(view);
    const placed = answer?.placed;
    if (!placed || route.at("plate")) return;
    view.inside(() => grid(ctx, viewport, placed.grid));
    survey.horizon(ctx, viewport, answer.horizon, this.horizonText);
    survey.station(ctx, viewport, placed, answer.horizon, FAMILIES);
    if (route.at("orient")) this.paintStaff(view, placed);
    else if (placed.box?.lines) survey.standing(ctx, viewport, placed.box);
    if (route.at("proof")) this.paintMeasure(view, placed);
  }
  get horizonText() {
    const row = this.page.laid.now.answer?.figures?.rows?.find((r) => r.key === "tilt");
    return row ? `horizon ${row.text}` : "";
  }
  paintRails({ ctx, viewport, hover }) {
    const { laid, rails } = this.page;
    const { photo, answer } = laid.now;
    const points = new Map((answer?.vanishing ?? []).map((v) => [v.axis, v.homogeneous]));
    // Those of the direction that is chosen: all at once are a thicket.
    const shown = photo.rails.filter((r) => r.axis === rails.axis && points.has(r.axis));
    for (const rail of shown) rods.prolonged(ctx, viewport, rail, points.get(rail.axis));
    for (const edge of [...rails.data.offers, ...rails.data.others]) rods.offer(ctx, viewport, edge);
    photo.rails.forEach((rail, index) => {
      const chosen = index === rails.index;
      const miss = Number.isFinite(answer?.miss_px?.[index]) ? answer.miss_px[index] : null;
      rods.rail(ctx, viewport, rail, { chosen, end: rails.end, miss, hover });
    });
    survey.horizon(ctx, viewport, answer?.horizon, this.horizonText);
  }
  paintStaff({ ctx, viewport }, placed) {
    const { staff } = this.page.place;
    if (!staff) return;
    const text = staff.metres ? `${staff.metres} m` : "how long?";
    survey.staff(ctx, viewport, staff, { graduations: staff.metres ? placed.staff?.graduations : null, text });
  }
  paintMeasure({ ctx, viewport }, placed) {
    const { measure } = this.page.laid.now.photo;
    if (!measure) return;
    const { measured } = placed;
    const text = measured?.error ? "–" : `${(measured?.length ?? 0).toFixed(3)} ${placed.scaled ? "m" : "units"}`;
    survey.staff(ctx, viewport, measure, { text, colour: "#9fd6ca" });
  }

  /** Points that can be dragged. */
  grips() {
    const { route, laid, place, checks, rails } = this.page;
    const { photo, answer } = laid.now;
    const placed = answer?.placed;
    const ends = (what, length) => (length ? [{ what, end: "from", px: length.from }, { what, end: "to", px: length.to }] : []);
    if (route.at("rails")) {
      // Of two ends on one place the one whose direction is chosen is grabbed.
      return photo.rails.flatMap((r, index) => ["a", "b"].map((end) => ({ what: "rail", index, end, px: r[end], first: r.axis === rails.axis })));
    }
    if (route.at("orient")) return [...ends("known", place.staff), ...(placed ? [{ what: "origin", px: photo.origin ?? placed.origin }] : [])];
    if (!route.at("proof")) return [];
    // While measuring nothing but the measured length can be grabbed.
    if (checks.measuring) return ends("measure", photo.measure);
    const corner = photo.corner_box && placed ? [{ what: "corner", px: photo.corner_box.at ?? placed.origin }] : [];
    return [...ends("measure", photo.measure), ...(placed?.box?.handles ?? []).map((h) => ({ what: "pull", axis: h.axis, px: h.px })), ...corner];
  }

  /** What the view tells of pointers. */
  host() {
    const { page } = this;
    const { laid, rails, place, checks, route } = page;
    const keep = {
      rail: () => rails.change("move a rail", laid.now.photo.rails),
      known: () => (place.data.staff ? null : place.keep()),
      measure: () => laid.change("measure", { measure: laid.now.photo.measure }),
      origin: () => laid.change("set the origin", { origin: laid.now.photo.origin }),
      corner: () => laid.change("move the box", { corner_box: laid.now.photo.corner_box }),
      pull: () => laid.change("pull the box", { corner_box: { ...laid.now.photo.corner_box, size: laid.now.answer?.placed?.box?.size ?? laid.now.photo.corner_box.size } }),
    };
    const dragged = (grip, px) => {
      const { photo } = laid.now;
      if (grip.what === "rail") photo.rails[grip.index][grip.end] = px;
      else if (grip.what === "origin") photo.origin = px;
      else if (grip.what === "corner") photo.corner_box.at = px;
      else if (grip.what === "known") place.staff[grip.end] = px;
      else if (grip.what === "measure") photo.measure[grip.end] = px;
      laid.ask(grip.what === "pull" ? { axis: grip.axis, to: px } : null);
    };
    const laying = (from, to) => {
      if (route.at("orient")) return place.lay(from, to);
      if (route.at("proof")) {
        if (!checks.measuring) return;
        laid.now.photo.measure = { axis: axisOf(checks.measureAxis), from, to, metres: 1 };
      } else if (route.at("rails")) {
        const count = rails.list.length;
        laid.now.photo.rails[count] = { axis: rails.axis, a: from, b: to };
        rails.choose(count, "b");
      } else return;
      laid.ask();
    };
    const laidDown = () => {
      if (route.at("rails")) return rails.change(`lay a rail ${FAMILIES.find((f) => f.key === rails.axis).name}`, laid.now.photo.rails);
      if (route.at("orient")) return place.laid();
      if (route.at("proof") && checks.measuring) return keep.measure();
    };
    return {
      paint: (view) => this.paint(view),
      grips: () => this.grips(),
      picture: () => (this.calm && route.at("rails") && this.data.print) || this.data.picture,
      loupe: (shown) => (this.loupe = shown),
      grabbed: (grip) => grip.what === "rail" && rails.choose(grip.index, grip.end),
      dragged,
      dropped: async (grip) => {
        await laid.settled();
        await keep[grip.what]();
      },
      laying,
      laid: laidDown,
      abandoned: () => page.show(),
      clicked: (px) => route.at("rails") && rails.clicked(px, page.view.viewport.scale),
    };
  }
}
