// The directions of the scene that rails run in. Which axis of a receiver each becomes is said at Deliver.

/** Key in the state, word, accent, and the bands of its rod: shares of a period that are tinted. */
export const FAMILIES = [
  { key: "y", name: "up", accent: "--up", period: 26, bands: [[0, 0.5]] },
  { key: "x", name: "along", accent: "--along", period: 12, bands: [[0, 0.5]] },
  { key: "z", name: "across", accent: "--across", period: 26, bands: [[0, 0.2], [0.36, 0.56]] },
];

export const familyOf = (key) => FAMILIES.find((f) => f.key === key);
