// Talks to the server. Every failure is an Error whose message is the server's sentence.
async function answer(response) {
  const type = response.headers.get("content-type") || "";
  const body = type.includes("json") ? await response.json() : await response.text();
  if (!response.ok) throw new Error(body.error || `The server answered ${response.status}.`);
  return body;
}

export const get = async (path) => answer(await fetch(path));

export const post = async (path, body) =>
  answer(await fetch(path, { method: "POST", headers: { "content-type": "application/json" }, body: JSON.stringify(body ?? {}) }));

export const upload = async (files) => {
  const form = new FormData();
  for (const file of files) form.append("files", file, file.name);
  return answer(await fetch("/api/uploads", { method: "POST", body: form }));
};

export const remove = async (path) => answer(await fetch(path, { method: "DELETE" }));

/** Sends a file as it is: the server reads it and says what is wrong with it. */
export const send = async (path, text) => answer(await fetch(path, { method: "POST", headers: { "content-type": "application/json" }, body: text }));
