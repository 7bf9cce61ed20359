import { readFileSync } from "node:fs";
import { transformAsync } from "@babel/core";
import { createCompiledCatalog } from "@lingui/cli/api";
import { formatter } from "@lingui/format-po";
import { compileMessage } from "@lingui/message-utils/compileMessage";
import type { Plugin } from "vite";

/** A string as JavaScript writes it. */
const literal = (s: string): string => new Function(`return ${s}`)();

const read = (code: string, locale: string) =>
  formatter().parse(code, { locale, sourceLocale: "en", filename: `${locale}.po` });

/**
 * Messages as the macro writes them, taken apart here so that no browser has to; only
 * those a catalogue has keep the id they are looked up by.
 */
const takenApart = (code: string, translated: Set<string>) =>
  code.replace(/\{ id: ("[^"]+"), message: ("(?:[^"\\]|\\.)*")/g, (_, id: string, m: string) => {
    return `{ id: ${translated.has(literal(id)) ? id : '""'}, message: ${JSON.stringify(compileMessage(literal(m)))}`;
  });

/** Writes the text macros out, and reads a catalogue as a module of compiled messages. */
export function lingui(): Plugin {
  const translated = new Set<string>();
  return {
    name: "lingui",
    enforce: "pre",
    async buildStart() {
      const catalog = await read(readFileSync("src/locales/de.po", "utf8"), "de");
      for (const [id, m] of Object.entries(catalog)) if (m.translation) translated.add(id);
    },
    async transform(code, id) {
      const file = id.split("?")[0] ?? id;
      if (/\/src\/.*\.tsx?$/.test(file) && /@lingui\/(core|react)\/macro/.test(code)) {
        const out = await transformAsync(code, {
          filename: file,
          babelrc: false,
          configFile: false,
          sourceMaps: true,
          retainLines: true,
          parserOpts: { plugins: ["typescript", "jsx"] },
          // English stays beside its id, so that it needs no catalogue.
          plugins: [["@lingui/babel-plugin-lingui-macro", { stripMessageField: false }]],
        });
        return out?.code ? { code: takenApart(out.code, translated), map: out.map } : null;
      }
      if (file.endsWith(".po")) {
        const locale = file.replace(/^.*\//, "").slice(0, -3);
        const catalog = await read(code, locale);
        const texts: Record<string, string> = {};
        for (const [k, v] of Object.entries(catalog))
          if (v.translation && !v.obsolete) texts[k] = v.translation;
        const { source } = createCompiledCatalog(locale, texts, { namespace: "es", strict: true });
        return { code: source.replace(/^\/\*.*?\*\//, ""), map: null };
      }
      return null;
    },
  };
}
