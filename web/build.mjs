// Builds the style sheet and scripts: node build.mjs [FOLDER], by default the one that ships.
import { execFileSync } from "node:child_process";
import { mkdirSync } from "node:fs";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { build } from "esbuild";

const here = path.dirname(fileURLToPath(import.meta.url));
const out = process.argv[2] ?? path.join(here, "../src/workshop/static/dist");
mkdirSync(out, { recursive: true });
execFileSync(
  process.execPath,
  [path.join(here, "node_modules/@tailwindcss/cli/dist/index.mjs"), "-i", "kizami.css", "-o", path.join(out, "kizami.css"), "--minify"],
  { cwd: here, stdio: ["ignore", "ignore", "inherit"] },
);
await build({
  absWorkingDir: here,
  entryPoints: ["kizami.js", "turning.js", "bench.js", "runs.js", "product.js"],
  outdir: out,
  bundle: true,
  minify: true,
  format: "iife",
  target: "es2022",
  legalComments: "eof",
});
