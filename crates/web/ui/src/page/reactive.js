// What the interface watches, and what it does not.
import Alpine from "@alpinejs/csp";

/** What is shown of this follows when its members change. */
export const watched = (object) => Alpine.reactive(object);

/** Keeps the interface's change tracking out of large data and drawing objects. */
export const unwatched = (object) => Object.defineProperty(object, "__v_skip", { value: true });

/** The same without watching who reads it: for much that is only compared. */
export const bare = (watched) => Alpine.raw(watched);

/** A plain copy of what is watched. */
export const plain = (value) => JSON.parse(JSON.stringify(value ?? null));
