// Writes src/api/limits.ts: what the interface's description says of sizes and
// ranges, so that no view types a limit of its own.
import { readFileSync, writeFileSync } from "node:fs";

const { components } = JSON.parse(readFileSync("../openapi.json", "utf8"));
const said = ["minimum", "maximum", "minLength", "maxLength", "minItems", "maxItems"];
const lines = ["// Made from openapi.json by make generate.", ""];
for (const [name, schema] of Object.entries(components.schemas).sort(([a], [b]) => (a < b ? -1 : 1))) {
  const fields = {};
  for (const [field, s] of Object.entries(schema.properties ?? {})) {
    const own = Object.fromEntries(said.filter((k) => k in s).map((k) => [k, s[k]]));
    if (Object.keys(own).length) fields[field] = own;
  }
  if (Object.keys(fields).length) lines.push(`export const ${name} = ${JSON.stringify(fields)} as const;`);
}
writeFileSync("src/api/limits.ts", `${lines.join("\n")}\n`);
