// The keys of a photograph's page.
import { isTaken } from "../page/keys.js";
import { FAMILIES } from "./families.js";

export function keys(page) {
  const { route, rails, table, shot, screen, checks, place } = page;
  const plain = {
    Delete: () => rails.remove(),
    "?": () => screen.toggleHelp(),
    Escape: () => {
      screen.toggleHelp(false);
      shot.dismiss();
      rails.offer([]);
      rails.choose(-1, "");
      place.drop();
      checks.measuring = false;
      page.redraw();
    },
    0: () => table.fit(),
    9: () => table.oneToOne(),
    n: () => rails.step(1),
    N: () => rails.step(-1),
    s: () => rails.settle(),
    m: () => route.at("proof") && checks.toggleMeasuring(),
    p: () => table.toggleCalm(),
  };
  // Directions by their first letters; with shift the chosen rail runs so. Across has its second.
  ["u", "a", "c"].forEach((key, k) => {
    plain[key] = () => rails.setAxis(FAMILIES[k].key);
    plain[key.toUpperCase()] = () => rails.runs(FAMILIES[k].key);
  });
  for (const arrow of ["ArrowLeft", "ArrowRight", "ArrowUp", "ArrowDown"]) plain[arrow] = (e) => rails.nudge(e);
  route.names.forEach((name, i) => (plain[String(i + 1)] = () => route.go(name)));
  const withCommand = { z: (e) => (e.shiftKey ? shot.redo() : shot.undo()), y: () => shot.redo() };
  return (event) => {
    if (isTaken(event)) return;
    const command = event.ctrlKey || event.metaKey;
    const action = command ? withCommand[event.key.toLowerCase()] : plain[event.key];
    if (!action) return;
    event.preventDefault();
    action(event);
  };
}
