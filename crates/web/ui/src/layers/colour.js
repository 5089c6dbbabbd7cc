// Quality in px on one continuous ramp that colour-blind eyes can read, dark to light.
const STOPS = [[0, 34, 78], [53, 69, 108], [102, 105, 112], [148, 142, 119], [200, 184, 102], [254, 232, 56]];

/** Red, green, blue in 0..255 for a share between 0 and 1. */
export function ramp(share) {
  const at = Math.min(0.9999, Math.max(0, share)) * (STOPS.length - 1);
  const i = Math.floor(at);
  return STOPS[i].map((v, k) => Math.round(v + (STOPS[i + 1][k] - v) * (at - i)));
}

/** Where on the ramp 0 px lies: its darkest part would not stand on a dark picture. */
const LIGHTEST = 0.42;

/** The px at which the ramp ends. */
export const RAMP_PX = 1.0;

/** Colour of a residual in px. */
export const quality = (px) => ramp(LIGHTEST + ((1 - LIGHTEST) * px) / RAMP_PX).map((v) => Math.min(255, v + 40));

export const tint = (px) => (px == null ? "#9fd6ca" : `rgb(${quality(px).join(",")})`);

export const css = (name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
