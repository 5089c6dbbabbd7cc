// What work in the background says of itself.

const JOB_WORDS = { ingest: "Making viewing copies", track: "Following features", hand: "Following hand tracks", judge: "Judging tracks", solve: "Solving", solve_again: "Solving again", deliver: "Delivering", deliver_stale: "Delivering as stale", undistort: "Undistorting" };

/** Roughly, as one would say it. */
export const timeLeft = (seconds) => {
  if (seconds === null || seconds === undefined) return "";
  if (seconds < 1.5) return "nearly done";
  if (seconds < 90) return `about ${Math.round(seconds)} s left`;
  return `about ${Math.round(seconds / 60)} min left`;
};

/** A job as the notebook shows it. */
export const workRow = (job) => ({
  ...job,
  word: JOB_WORDS[job.kind],
  share: job.total ? Math.round((100 * job.done) / job.total) : 0,
  said: [job.stage, timeLeft(job.left_s)].filter(Boolean).join(" · "),
});
