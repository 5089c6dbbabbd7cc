// What stands in a field, as a number; what is none is passed on as it is, for the server to refuse with a sentence.

const NUMBER = /^[+-]?(\d+([.,]\d*)?|[.,]\d+)(e[+-]?\d+)?$/i;

/** A number with one of these units behind it or none, a decimal comma understood; `null` where nothing stands;
 *  else the text itself. */
export function numberOr(text, ...units) {
  const plain = String(text ?? "").trim();
  if (plain === "") return null;
  const unit = units.find((u) => plain.toLowerCase().endsWith(u));
  const bare = (unit ? plain.slice(0, -unit.length) : plain).trim();
  return NUMBER.test(bare) ? Number(bare.replace(",", ".")) : plain;
}

/** Two whole numbers such as `1001-1048`; `null` where nothing stands; else the text. */
export function spanOr(text) {
  const plain = String(text ?? "").trim();
  if (plain === "") return null;
  const two = /^(-?\d+)\s*[–-]\s*(-?\d+)$/.exec(plain);
  return two ? [Number(two[1]), Number(two[2])] : plain;
}

/** A count with the right word. */
export const several = (count, one, many = `${one}s`) => `${count} ${count === 1 ? one : many}`;

/** Standard error of what was measured on the set and comes without one, m. */
const USUAL_M = 0.005;

/** A standard error that was typed in mm, in m; what is no number is for the server to refuse. */
export function errorIn(text) {
  const mm = numberOr(text, "mm");
  if (mm === null) return USUAL_M;
  return typeof mm === "number" ? mm / 1000 : mm;
}
