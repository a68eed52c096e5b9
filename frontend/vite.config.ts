import { readdirSync, readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { brotliCompressSync, constants, gzipSync } from "node:zlib";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

/** Puts beside each file that compresses well what is sent of it: `.br` and `.gz`. */
function compressed(): Plugin {
  return {
    name: "compressed",
    apply: "build",
    writeBundle({ dir = "dist" }) {
      const folder = join(dir, "assets");
      for (const name of readdirSync(folder)) {
        if (!/\.(js|css)$/.test(name)) continue;
        const path = join(folder, name);
        const whole = readFileSync(path);
        const quality = { params: { [constants.BROTLI_PARAM_QUALITY]: 11 } };
        writeFileSync(`${path}.br`, brotliCompressSync(whole, quality));
        writeFileSync(`${path}.gz`, gzipSync(whole, { level: 9 }));
      }
    },
  };
}

/**
 * What every screen needs is sent in two files. Left alone each module that two screens share would be
 * one of its own, and a slow connection takes longer to ask for twenty small files than to bring them.
 */
const TOGETHER = [
  {
    name: "libraries",
    test: /node_modules\/(react|react-dom|scheduler|react-router|@tanstack\/(query-core|react-query)(?!.*(queriesObserver|useQueries|nfiniteQueryObserver|useInfiniteQuery))|openapi-fetch|get-nonce|lucide-react)\//,
  },
  {
    name: "common",
    test: new RegExp(
      "src/(api/(?!timetableQueries|accountQueries|registrarQueries|requestQueries|filters|once)|ui/(Button|Notice|Page|Field|fields|focus|pressable|text|useNow|useSearch|announce|Boundary|Dropdown)\\." +
        "|features/(frame/(use|TopBar|ConnectionLine)|students/subject/(?!LimitForm|useAdvising)" +
        "|access/session/(useSignedIn|SignOut)" +
        "|catalogue/section/(use|recent|SeatMeter|SheetOnDemand|SectionAction|SectionLine|WeekStrip|FitText)" +
        "|registration/changes/(useCartChanges|tones|verdict)))",
    ),
  },
];

export default defineConfig({
  plugins: [react(), tailwindcss(), compressed()],
  build: {
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 700,
    // The server reads there what a page needs, and has the browser fetch it at once.
    manifest: true,
    modulePreload: { polyfill: false },
    rollupOptions: { output: { advancedChunks: { groups: TOGETHER } } },
  },
  server: { proxy: { "/api": "http://127.0.0.1:8460" } },
});
