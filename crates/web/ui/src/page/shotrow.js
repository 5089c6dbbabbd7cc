// One shot in the list: its picture, how far each station is, work that runs.
import { get, post } from "./api.js";
import { workRow } from "../stores/work.js";

const AGAIN_MS = 700;
const TRIES = 120;
const pause = () => new Promise((done) => setTimeout(done, AGAIN_MS));

export const shotrow = () => ({
  id: 0,
  name: "",
  stations: [],
  work: [],
  renaming: false,

  async init() {
    this.id = Number(this.$el.dataset.shot);
    this.name = this.$el.dataset.name;
    this.picture(this.$el.querySelector(".thumb"));
    // While work goes on it is looked at again; a list is not worth a stream of each shot.
    for (;;) {
      const found = await get(`/api/shots/${this.id}/route`).catch(() => null);
      if (!found) return;
      this.stations = found.stations;
      this.work = found.work.map(workRow);
      if (!this.work.length) return;
      await pause();
    }
  },
  /** A plate that is still being taken in has no picture yet. */
  async picture(image) {
    for (let tries = 0; tries < TRIES; tries++) {
      const answer = await fetch(image.dataset.src).catch(() => null);
      if (answer?.ok) {
        image.src = URL.createObjectURL(await answer.blob());
        return;
      }
      await pause();
    }
  },
  isWanted() {
    return this.name.toLowerCase().includes(this.wanted.trim().toLowerCase());
  },
  link(station) {
    return `/shots/${this.id}#${station}`;
  },
  get workText() {
    return this.work.map((w) => `${w.word}${w.total ? `, ${w.share} %` : ""}`).join(" · ");
  },
  async beginRename() {
    this.renaming = true;
    await this.$nextTick();
    this.$root.querySelector("input").select();
  },
  async rename() {
    this.renaming = false;
    await this.guarded("", async () => {
      await post(`/api/shots/${this.id}`, { do: "rename", name: this.name });
      location.reload();
    });
  },
  bin() {
    return this.ask(this.id, "bin");
  },
});
