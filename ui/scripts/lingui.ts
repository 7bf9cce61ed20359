import { transformAsync } from "@babel/core";
import { createCompiledCatalog } from "@lingui/cli/api";
import { formatter } from "@lingui/format-po";
import type { Plugin } from "vite";

/** Writes the text macros out, and reads a catalogue as a module of compiled messages. */
export function lingui(): Plugin {
  return {
    name: "lingui",
    enforce: "pre",
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
        return out?.code ? { code: out.code, map: out.map } : null;
      }
      if (file.endsWith(".po")) {
        const locale = file.replace(/^.*\//, "").slice(0, -3);
        const catalog = await formatter().parse(code, { locale, sourceLocale: "en", filename: file });
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
