// Builds everything the pages need into greyfell/web/static/dist: fonts, style sheet, script. Offline, same bytes every time.
import { execFileSync } from "node:child_process";
import { cpSync, mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { dirname, join } from "node:path";
import { fileURLToPath } from "node:url";
import { build } from "esbuild";

const root = join(dirname(fileURLToPath(import.meta.url)), "..");
const src = join(root, "greyfell/web/static/src");
const dist = join(root, "greyfell/web/static/dist");
rmSync(dist, { recursive: true, force: true });
mkdirSync(join(dist, "fonts"), { recursive: true });

// Faces: Latin, Latin extended and Greek of both families; Noto Sans Math stands behind them for √ ≤ ≥ ≈ →.
const faces = [
  ["@fontsource-variable/commissioner", "wght.css", /-(latin|latin-ext|greek)-wght-normal/],
  ["@fontsource-variable/jetbrains-mono", "wght.css", /-(latin|latin-ext|greek)-wght-normal/],
  ["@fontsource/noto-sans-math", "latin.css", /latin-400-normal/],
];
let css = "";
for (const [name, sheet, wanted] of faces) {
  const folder = join(root, "node_modules", name);
  const text = readFileSync(join(folder, sheet), "utf8").replace(/\/\*.*?\*\//gs, "");
  for (const block of text.match(/@font-face\s*{[^}]*}/g)) {
    const file = block.match(/url\(\.\/files\/([^)]+\.woff2)\)/)?.[1];
    if (!file || !wanted.test(file)) continue;
    cpSync(join(folder, "files", file), join(dist, "fonts", file));
    let face = block.replace(/src:[^;]*;/, `src: url(fonts/${file}) format("woff2");`).replace(/font-display:[^;]*;/, "font-display: block;");
    if (name.endsWith("math")) face = face.replace(/\s*unicode-range:[^;]*;?/, "");
    css += face.trim() + "\n";
  }
  cpSync(join(folder, "LICENSE"), join(dist, "fonts", `${name.split("/")[1]}-LICENSE.txt`));
}

const cli = join(root, "node_modules/@tailwindcss/cli/dist/index.mjs");
const out = join(dist, "app.css");
execFileSync(process.execPath, [cli, "-i", join(src, "app.css"), "-o", out, "--minify"], { cwd: root, stdio: ["ignore", "ignore", "inherit"] });
writeFileSync(out, css + readFileSync(out, "utf8"));

// The same rules for a drawing that stands alone, in the light theme: no custom property, no "svg" before a class.
const source = readFileSync(join(src, "app.css"), "utf8");
const light = (value) => value.replace(/light-dark\(([^,]+),[^)]+\)/g, "$1");
const token = Object.fromEntries([...source.matchAll(/(--[\w-]+): ([^;]+);/g)].map(([, name, value]) => [name, light(value)]));
const rules = [...source.matchAll(/^ {2}svg .*$/gm)].map(([line]) => line).join("\n").match(/svg [^{}]+{[^}]*}/g)
  .filter((rule) => !/:hover|:focus|svg a |is-picked/.test(rule))
  .map((rule) => light(rule).replace(/svg /g, "").replace(/var\((--[\w-]+)\)/g, (_, name) => token[name]).replace(/\s+/g, " "));
writeFileSync(join(dist, "drawing.css"), rules.join("\n") + "\n");

await build({
  entryPoints: [join(src, "app.js")], outfile: join(dist, "app.js"), bundle: true, minify: true, format: "iife",
  target: "es2022", legalComments: "none", logLevel: "warning",
});
cpSync(join(src, "favicon.svg"), join(dist, "favicon.svg"));
