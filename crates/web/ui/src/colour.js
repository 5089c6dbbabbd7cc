// Quality in px on one continuous ramp that colour-blind eyes can read, dark to light.
const STOPS = [[0, 34, 78], [53, 69, 108], [102, 105, 112], [148, 142, 119], [200, 184, 102], [254, 232, 56]];

/** Red, green, blue in 0..255 for a share between 0 and 1. */
export function ramp(share) {
  const at = Math.min(0.9999, Math.max(0, share)) * (STOPS.length - 1);
  const i = Math.floor(at);
  return STOPS[i].map((v, k) => Math.round(v + (STOPS[i + 1][k] - v) * (at - i)));
}

/** The px at which the ramp ends. */
export const RAMP_PX = 1.0;

export const tint = (px) => (px == null ? "#9fd6ca" : `rgb(${ramp(0.25 + (0.75 * px) / RAMP_PX).join(",")})`);

export const css = (name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
