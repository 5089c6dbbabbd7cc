// Keeps the interface's change tracking out of large data and drawing objects.
export const unwatched = (object) => Object.defineProperty(object, "__v_skip", { value: true });
