// Builds styles, fonts and scripts into ../assets, which is kept in the repository.
import { build } from "esbuild";
import { execFileSync } from "node:child_process";
import { mkdirSync, copyFileSync } from "node:fs";

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
