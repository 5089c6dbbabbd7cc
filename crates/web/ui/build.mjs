// Builds styles, fonts and scripts into ../assets, which is kept in the repository.
import { build } from "esbuild";
import { execFileSync } from "node:child_process";
import { createHash } from "node:crypto";
import { copyFileSync, mkdirSync, readFileSync, readdirSync, statSync, writeFileSync } from "node:fs";

mkdirSync("../assets/fonts", { recursive: true });
const fonts = {
  "atkinson-400.woff2": "@fontsource/atkinson-hyperlegible/files/atkinson-hyperlegible-latin-400-normal.woff2",
  "atkinson-700.woff2": "@fontsource/atkinson-hyperlegible/files/atkinson-hyperlegible-latin-700-normal.woff2",
  "plex-mono-400.woff2": "@fontsource/ibm-plex-mono/files/ibm-plex-mono-latin-400-normal.woff2",
};
for (const [name, from] of Object.entries(fonts)) copyFileSync(`node_modules/${from}`, `../assets/fonts/${name}`);
execFileSync("npx", ["tailwindcss", "-i", "src/style.css", "-o", "../assets/style.css", "--minify"], { stdio: "inherit" });
// What is imported while a page runs (the view of space with its library) is a file of its own.
await build({
  entryPoints: { app: "src/main.js" },
  chunkNames: "[name]",
  outdir: "../assets",
  splitting: true,
  bundle: true,
  minify: true,
  format: "esm",
  target: "es2022",
  // The library's shaders are written over many lines, which minifying keeps in templates but not in strings.
  supported: { "template-literal": false },
  legalComments: "eof",
});

// What this was built from and what came out, so that a test can tell whether both still belong together.
const below = (folder) =>
  readdirSync(folder).flatMap((name) => {
    const path = `${folder}/${name}`;
    return statSync(path).isDirectory() ? below(path) : [path];
  });
const checksum = (folders, without) => {
  const named = folders.flatMap((folder) => below(`../${folder}`)).map((path) => path.slice(3)).filter((name) => !name.endsWith(without) && (!name.startsWith("src/") || name.endsWith(".html")));
  const hash = createHash("sha256");
  for (const name of named.sort()) hash.update(name).update("\0").update(readFileSync(`../${name}`));
  return hash.digest("hex");
};
const built = { sources: checksum(["ui/src", "src/screens"], ".DS_Store"), assets: checksum(["assets"], "built-from.json") };
writeFileSync("../assets/built-from.json", `${JSON.stringify(built, null, 2)}\n`);
