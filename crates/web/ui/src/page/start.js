// The first page: shots there are, dropping files, picking a folder.
import { get, post, upload } from "./api.js";
import { several } from "./numbers.js";

export const start = () => ({
  over: false,
  busy: "",
  error: "",
  path: "",
  folders: [],
  plate: null,
  movies: [],
  wanted: "",

  async init() {
    if (this.$root.dataset.plates === "true") await this.enter("");
  },

  async guarded(word, work) {
    this.busy = word;
    this.error = "";
    try {
      await work();
    } catch (e) {
      this.error = e.message;
    }
    this.busy = "";
  },

  /** Something with a shot as a whole; the page then shows it as it is. */
  async ask(shot, deed, more = {}) {
    await this.guarded("", async () => {
      await post(`/api/shots/${shot}`, { do: deed, ...more });
      location.reload();
    });
  },
  async remove(shot) {
    if (window.confirm("Delete this shot with its tracks, attempts and deliveries for good?")) await this.ask(shot, "delete");
  },

  dropped(event) {
    this.over = false;
    this.send([...event.dataTransfer.files]);
  },

  chosen(event) {
    this.send([...event.target.files]);
  },

  async send(files) {
    if (!files.length) return;
    await this.guarded(files.length === 1 ? `Taking in ${files[0].name}` : `Taking in ${files.length} files`, async () => {
      const { shot } = await upload(files);
      location.href = `/shots/${shot}`;
    });
  },

  async enter(path) {
    await this.guarded("", async () => {
      const found = await get(`/api/folders?path=${encodeURIComponent(path)}`);
      this.path = path;
      this.folders = found.folders;
      this.plate = found.plate;
      this.movies = found.movies;
    });
  },

  async down(name) {
    await this.enter(this.path ? `${this.path}/${name}` : name);
  },

  async upwards() {
    await this.enter(this.path.split("/").slice(0, -1).join("/"));
  },

  async openMovie(name) {
    await this.guarded("Looking at the movie", async () => {
      const { shot } = await post("/api/shots", { folder: this.path ? `${this.path}/${name}` : name });
      location.href = `/shots/${shot}`;
    });
  },

  get plateText() {
    return this.plate.count === 1 ? `Open ${this.plate.pattern}, a photograph` : `Open ${this.plate.pattern}, ${several(this.plate.count, "frame")}`;
  },

  async open() {
    await this.guarded("Opening the folder", async () => {
      const { shot } = await post("/api/shots", { folder: this.path || "." });
      location.href = `/shots/${shot}`;
    });
  },
});
