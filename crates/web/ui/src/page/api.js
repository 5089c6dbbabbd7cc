// Talks to the server. Every failure is an Error whose message is the server's sentence; `body` is its answer.
async function answer(response) {
  const type = response.headers.get("content-type") || "";
  const body = type.includes("json") ? await response.json() : await response.text();
  if (!response.ok) throw Object.assign(new Error(body.error || `The server answered ${response.status}.`), { body });
  return body;
}

const JSON_BODY = { "content-type": "application/json" };

export const get = async (path, headers) => answer(await fetch(path, { headers }));

export const post = async (path, body, headers) =>
  answer(await fetch(path, { method: "POST", headers: { ...JSON_BODY, ...headers }, body: JSON.stringify(body ?? {}) }));

export const upload = async (files) => {
  const form = new FormData();
  for (const file of files) form.append("files", file, file.name);
  return answer(await fetch("/api/uploads", { method: "POST", body: form }));
};

export const remove = async (path) => answer(await fetch(path, { method: "DELETE" }));

/** Sends a file as it is: the server reads it and says what is wrong with it. */
export const send = async (path, text, headers) => answer(await fetch(path, { method: "POST", headers: { ...JSON_BODY, ...headers }, body: text }));

/** Bytes. */
export const bytes = async (path) => {
  const response = await fetch(path);
  return response.ok ? response.arrayBuffer() : answer(response);
};
