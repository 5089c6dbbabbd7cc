// Work in the background: what waits and runs, how far it is, how it ended.
import { post } from "../page/api.js";

const WORDS = { ingest: "Making viewing copies", track: "Following features", hand: "Following hand tracks", judge: "Judging tracks", solve: "Solving", solve_again: "Solving again", deliver: "Delivering", deliver_stale: "Delivering as stale", undistort: "Undistorting", movie: "Drawing the movie" };
const STATIONS = { plate: ["ingest"], track: ["track", "hand", "judge"], solve: ["solve", "solve_again"], proof: ["movie"], deliver: ["deliver", "deliver_stale", "undistort"] };

/** Roughly, as one would say it. */
export const timeLeft = (seconds) => {
  if (seconds === null || seconds === undefined) return "";
  if (seconds < 1.5) return "nearly done";
  if (seconds < 90) return `about ${Math.round(seconds)} s left`;
  return `about ${Math.round(seconds / 60)} min left`;
};

const isActive = (job) => job.state === "queued" || job.state === "running";

/** A job as the notebook shows it. */
export const workRow = (job) => ({
  ...job,
  word: WORDS[job.kind],
  share: job.total ? Math.round((100 * job.done) / job.total) : 0,
  said: [job.state === "queued" ? "waits for its turn" : job.stage, timeLeft(job.left_s)].filter(Boolean).join(" · "),
});

export class Work {
  constructor(page) {
    Object.assign(this, { page, progress: {} });
  }

  get jobs() {
    return this.page.shot.view?.jobs ?? [];
  }
  get rows() {
    return this.jobs.filter(isActive).map((job) => workRow({ ...job, ...this.progress[job.id] }));
  }
  get busy() {
    return this.jobs.some(isActive);
  }
  /** Whether work of one of these kinds waits or runs. */
  isAt(...kinds) {
    return this.jobs.some((job) => isActive(job) && kinds.includes(job.kind));
  }
  /** The latest work at a station, once it has ended. */
  lastAt(station) {
    const job = this.jobs.find((j) => STATIONS[station]?.includes(j.kind));
    return job && !isActive(job) ? { ...job, level: { failed: "bad", done: "ok" }[job.state] ?? "warn", text: job.message || job.state } : null;
  }
  heard(jobs) {
    for (const job of jobs) if (isActive(job)) this.progress[job.id] = job;
  }
  cancel(job) {
    return this.page.shot.act(() => post(`/api/jobs/${job}/cancel`));
  }
}
