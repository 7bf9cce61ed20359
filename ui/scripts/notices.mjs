// Writes public/notices.txt: everything that ships with Notchback, with its licence, from
// the packages as they are installed: the browser's part with what it is built on in turn,
// and the modules of the server.
import { execFileSync } from "node:child_process";
import { existsSync, readdirSync, readFileSync, writeFileSync } from "node:fs";

const run = (name, ...args) =>
  execFileSync(name, args, { encoding: "utf8", stdio: ["ignore", "pipe", "ignore"], maxBuffer: 1 << 26 })
    .split("\n")
    .filter(Boolean);

const licence = (dir, name, id) => {
  const file = readdirSync(dir).find((f) => /^(licen[cs]e|copying)/i.test(f));
  if (file) return readFileSync(`${dir}/${file}`, "utf8").trim();
  const kept = `scripts/licences/${id}.txt`; // a package without the text of its licence
  if (existsSync(kept)) return readFileSync(kept, "utf8").trim();
  throw new Error(`${name} has no licence text (${id}, ${dir})`);
};

const seen = new Map();
for (const dir of run("npm", "ls", "--omit=dev", "--all", "--parseable").slice(1)) {
  const { name, version, license } = JSON.parse(readFileSync(`${dir}/package.json`, "utf8"));
  if (/^@types\//.test(name)) continue; // nothing of it ships
  seen.set(`${name} ${version}`, { id: license, text: () => licence(dir, name, license) });
}
const modules = run(
  "go",
  "list",
  "-C",
  "..",
  "-deps",
  "-f",
  "{{with .Module}}{{if not .Main}}{{.Path}} {{.Version}} {{.Dir}}{{end}}{{end}}",
  "./cmd/notchback",
);
const go = new Map();
for (const line of modules) {
  const [path, version, dir] = line.split(" ");
  go.set(`${path} ${version}`, { text: () => licence(dir, path, "unknown") });
}
const sorted = (m) => [...m].sort(([a], [b]) => (a < b ? -1 : 1));
const out = [
  "Notchback ships these libraries. Their licences follow.",
  "",
  "In the browser's part:",
  "",
  ...sorted(seen).map(([n, { id }]) => `${n}: ${id}`),
  "",
  "In the server:",
  "",
  ...sorted(go).map(([n]) => n),
  "",
];
for (const [n, { text }] of [...sorted(seen), ...sorted(go)]) out.push("", `==== ${n} ====`, "", text(), "");
writeFileSync("public/notices.txt", `${out.join("\n").trimEnd()}\n`);
