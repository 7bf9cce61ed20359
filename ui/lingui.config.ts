import { defineConfig } from "@lingui/cli";
import { formatter } from "@lingui/format-po";

// One catalogue a language; English is what the code says, its catalogue is made from it.
export default defineConfig({
  sourceLocale: "en",
  locales: ["en", "de"],
  catalogs: [
    {
      path: "<rootDir>/src/locales/{locale}",
      include: ["src"],
      exclude: ["**/*.test.ts", "**/*.test.tsx", "src/features/testing.tsx"],
    },
  ],
  format: formatter({ lineNumbers: false, origins: true }),
  orderBy: "message",
  runtimeConfigModule: { Trans: ["/src/parts/trans", "Trans"] },
});
