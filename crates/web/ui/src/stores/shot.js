// The shot as the server shows it, and everything that is done to it: edits, undo, work, deeds. It hears from the
// server what others do and how far work is; nothing is asked for again and again.
import { get, post } from "../page/api.js";
import { apply } from "../page/changes.js";
import { plain } from "../page/reactive.js";

const MEMBERS = [
  "name", "plate", "width", "height", "state", "version", "film_back", "facts", "history", "stations", "findings", "attempts",
  "solve", "orientation", "recipes", "formats", "survey", "constraints", "statements", "stale_since", "undistorted", "movie", "lens", "solved", "next",
];
/** How long it is said what undo took back, or what somebody else did. */
const SAID_MS = 6000;

// What is done to the shot is done one after the other, so that answers come in order.
let turn = Promise.resolve();
let acts = 0;

export class Shot {
  constructor(page, id) {
    Object.assign(this, { page, id, view: null, error: "", again: null, offer: null, said: "" });
  }

  get address() {
    return `/api/shots/${this.id}`;
  }
  get seen() {
    return this.view?.tag ? { "x-seen": this.view.tag } : {};
  }

  async open() {
    this.take(await get(this.address));
  }

  /** Takes an answer of the server: a whole view, or what changed in the one that is shown. */
  take(answer) {
    if (answer.changes && answer.since === this.view?.tag) {
      apply(this.view, answer.changes);
      this.view.tag = answer.tag;
    } else if (answer.stations) this.view = answer;
    else return false;
    return true;
  }

  /** Shows an answer; asks for the shot where the answer is none. */
  async show(answer) {
    if (!answer || !this.take(answer)) this.take(await get(this.address, answer?.since ? {} : this.seen));
    await this.page.follow();
  }

  /** Does something; `again` does it anew where it came too late. */
  act(work, again = null) {
    acts += 1;
    turn = turn.then(async () => {
      [this.error, this.again, this.offer] = ["", null, null];
      try {
        await this.show(await work());
        return true;
      } catch (e) {
        this.refuse(e.message, e.body?.since ? again : null);
        return false;
      }
    });
    return turn;
  }

  /** Something was refused: the sentence, and what is shown stands as it is kept. */
  refuse(sentence, again = null) {
    Object.assign(this, { error: sentence, again });
    this.page.restore();
  }
  /** Whether what was refused came too late. (What a template shows must be no function: it would be called.) */
  get isLate() {
    return this.again !== null;
  }
  async doAgain() {
    const again = this.again;
    await this.refresh();
    return again();
  }
  takeOffer() {
    return this.offer.take();
  }
  dismiss() {
    [this.error, this.again, this.offer] = ["", null, null];
  }

  /** Shows the shot as it is now; dropped when something was done meanwhile, whose answer is newer. */
  async refresh() {
    await turn;
    const before = acts;
    const answer = await get(this.address, this.seen);
    if (before === acts) await this.show(answer);
  }

  post(path, body) {
    return post(this.address + path, body, this.seen);
  }

  /** Changes members, and things of lists by their ids. */
  edit(label, patch, things = {}) {
    // Read when its turn comes: after the edits before it.
    return this.act(
      () => this.post("/edits", { label, patch, things, on: this.view.version }),
      () => this.edit(label, patch, things),
    );
  }
  /** Changes a thing of a list as it stands when its turn comes: nothing that was asked before it is lost. */
  alter(label, list, id, change) {
    const deeds = () => {
      const thing = this.view.state[list].find((t) => t.id === id);
      if (!thing) throw new Error("It is gone meanwhile. Nothing was changed.");
      return { [list]: { change: [change(plain(thing))] } };
    };
    return this.act(
      async () => this.post("/edits", { label, patch: {}, things: deeds(), on: this.view.version }),
      () => this.alter(label, list, id, change),
    );
  }
  toggle(key) {
    return this.edit(`switch ${key.replaceAll("_", " ")}`, { [key]: !this.view.state[key] });
  }
  begin(kind) {
    return this.act(() => this.post("/jobs", { kind }));
  }
  /** What a finding offers that is done to the shot as a whole. */
  attend(finding) {
    return this.act(() => this.post("", finding.deed.body));
  }
  async mend(finding) {
    const { label, edit, things, work } = finding.remedy;
    if ((await this.edit(label.toLowerCase(), edit, things)) && work) await this.begin(work);
  }
  async undo() {
    const label = this.view.history.undo;
    if (label && (await this.act(() => this.post("/undo")))) this.say(`Took back: ${label}.`);
  }
  async redo() {
    const label = this.view.history.redo;
    if (label && (await this.act(() => this.post("/redo")))) this.say(`Did again: ${label}.`);
  }
  say(sentence) {
    this.said = sentence;
    clearTimeout(this.page.saidTimer);
    this.page.saidTimer = setTimeout(() => (this.said = ""), SAID_MS);
  }

  /** Hears what happens to the shot while the page is looked at. */
  listen() {
    const open = () => {
      this.page.events?.close();
      const events = (this.page.events = new EventSource(`${this.address}/events`));
      events.addEventListener("shot", (e) => this.heard(JSON.parse(e.data)));
      events.addEventListener("work", (e) => this.page.work.heard(JSON.parse(e.data)));
    };
    const hidden = () => (document.hidden ? this.page.events?.close() : open());
    document.addEventListener("visibilitychange", hidden);
    open();
  }

  async heard({ version, name, label, jobs }) {
    await turn;
    const { view } = this;
    const work = JSON.stringify(view.jobs.map((j) => [j.id, j.state]));
    if (version === view.version && name === view.name && JSON.stringify(jobs) === work) return;
    // What work comes to is no deed of somebody else's.
    const elsewhere = version > view.version && !this.page.work.busy;
    try {
      await this.refresh();
      if (elsewhere && label) this.say(`Done elsewhere: ${label}.`);
    } catch {
      // The server may be restarting; the events come again when it is back.
    }
  }
}

for (const key of MEMBERS) {
  Object.defineProperty(Shot.prototype, key, {
    get() {
      return this.view?.[key];
    },
  });
}
