import { existsSync, readdirSync, readFileSync } from "node:fs";
import { dirname, join, normalize } from "node:path";
import { formatter } from "@lingui/format-po";
import { type CompiledMessage, compileMessage } from "@lingui/message-utils/compileMessage";
import ts from "typescript";
import { expect, test } from "vitest";

const files = (dir: string): string[] =>
  readdirSync(dir, { withFileTypes: true }).flatMap((e) =>
    e.isDirectory() ? files(join(dir, e.name)) : [join(dir, e.name)],
  );
const code = files("src").filter((f) => /\.tsx?$/.test(f) && !/test(ing)?\.tsx?$|schema\.d\.ts/.test(f));
const parsed = (f: string) =>
  ts.createSourceFile(
    f,
    readFileSync(f, "utf8"),
    ts.ScriptTarget.Latest,
    true,
    f.endsWith("x") ? ts.ScriptKind.TSX : ts.ScriptKind.TS,
  );

const words = /[a-z]{2,}/i;
/** Attributes whose value somebody reads or hears. */
const read = new Set([
  "label",
  "title",
  "aria-label",
  "placeholder",
  "alt",
  "hint",
  "low",
  "middle",
  "high",
  "aside",
]);
/** What is the same in every language: names of keys, of formats and of languages. */
const everywhere = new Set(["Esc", "Enter", "Space", "Ctrl Enter"]);

test("no text of the interface stands outside the catalogue", () => {
  const outside: string[] = [];
  for (const f of code.filter((x) => x.endsWith(".tsx"))) {
    const sf = parsed(f);
    const at = (n: ts.Node) => `${f}:${sf.getLineAndCharacterOfPosition(n.getStart(sf)).line + 1}`;
    const walk = (n: ts.Node) => {
      if (ts.isJsxElement(n) && n.openingElement.tagName.getText(sf) === "Trans") return;
      if (ts.isJsxText(n) && words.test(n.text)) outside.push(`${at(n)} ${n.text.trim()}`);
      if (ts.isJsxAttribute(n) && read.has(n.name.getText(sf)) && n.initializer) {
        const v = n.initializer;
        if (ts.isStringLiteral(v) && words.test(v.text) && !everywhere.has(v.text))
          outside.push(`${at(n)} ${n.name.getText(sf)}="${v.text}"`);
      }
      ts.forEachChild(n, walk);
    };
    walk(sf);
  }
  expect(outside).toEqual([]);
});

const catalogue = async (l: string) =>
  formatter().parse(readFileSync(`src/locales/${l}.po`, "utf8"), {
    locale: l,
    sourceLocale: "en",
    filename: `${l}.po`,
  });

/** Every file the phone's page is made of. */
function reached(from: string, seen = new Set<string>()): Set<string> {
  const f = normalize(from);
  if (seen.has(f)) return seen;
  seen.add(f);
  for (const m of readFileSync(f, "utf8").matchAll(/(?:from |import\()"(\.[^"]+)"/g)) {
    const base = join(dirname(f), m[1] ?? "");
    for (const e of [".tsx", ".ts"]) if (existsSync(base + e)) reached(base + e, seen);
  }
  return seen;
}

test("everything on the phone is there in German", async () => {
  const phone = reached("src/features/pocket/start.tsx");
  const missing = Object.values(await catalogue("de"))
    .filter((m) => !m.obsolete && !m.translation && m.origin?.some(([f]) => phone.has(f)))
    .map((m) => m.message);
  expect(phone.size).toBeGreaterThan(20);
  expect(missing).toEqual([]);
});

/** What a message takes in, and which elements stand in it. */
function taken(message: string): string[] {
  const out = new Set([...message.matchAll(/<\/?\d+\/?>/g)].map((m) => m[0]));
  const walk = (tokens: CompiledMessage) => {
    if (typeof tokens === "string") return;
    for (const x of tokens) {
      if (typeof x === "string") continue;
      out.add(x[0]);
      for (const branch of Object.values((x[2] as Record<string, CompiledMessage>) ?? {}))
        if (Array.isArray(branch)) walk(branch);
    }
  };
  walk(compileMessage(message));
  return [...out].sort();
}

test("a translation keeps what is put into it", async () => {
  const de = Object.values(await catalogue("de")).filter((m) => m.translation);
  expect(de.length).toBeGreaterThan(300);
  for (const m of de) expect(taken(m.translation ?? ""), m.message).toEqual(taken(m.message ?? ""));
});
