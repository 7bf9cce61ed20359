// Writes public/notices.txt: the libraries that the browser's part ships, with their
// licences, from the packages as they are installed.
import { existsSync, readdirSync, readFileSync, writeFileSync } from "node:fs";

const { dependencies } = JSON.parse(readFileSync("package.json", "utf8"));
const list = Object.keys(dependencies).sort();
const meta = (name) => JSON.parse(readFileSync(`node_modules/${name}/package.json`, "utf8"));
const text = (name) => {
  const dir = `node_modules/${name}`;
  const file = readdirSync(dir).find((f) => /^licen[cs]e/i.test(f));
  if (file) return readFileSync(`${dir}/${file}`, "utf8").trim();
  const kept = `scripts/licences/${meta(name).license}.txt`; // a package without the text of its licence
  if (existsSync(kept)) return readFileSync(kept, "utf8").trim();
  throw new Error(`${name} has no licence text`);
};
const out = [
  "Notchback ships these libraries in the browser's part. Their licences follow.",
  "",
  ...list.map((n) => `${n} ${meta(n).version}: ${meta(n).license}`),
  "",
];
for (const n of list) out.push("", `==== ${n} ====`, "", text(n), "");
writeFileSync("public/notices.txt", `${out.join("\n").trimEnd()}\n`);
