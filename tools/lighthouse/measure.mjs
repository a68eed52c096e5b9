// Runs lighthouse over pages of a server that is up, and prints what it found as JSON.
// Usage: node measure.mjs BASE_URL COOKIE TERM
import lighthouse, { desktopConfig } from "lighthouse";
import { launch } from "chrome-launcher";

const [base, cookie, term] = process.argv.slice(2);
const RUNS = Number(process.env.RUNS ?? 3);
const PAGES = [
  { name: "Find (visitor)", path: `/${term}/find` },
  { name: "Sign-in", path: "/" },
  { name: "Week", path: `/${term}/week`, cookie },
];
const FLAGS = [
  "--headless=new", "--no-sandbox", "--disable-gpu", "--disable-background-networking",
  "--disable-component-update", "--disable-sync", "--no-first-run",
];

const middle = (values) => values.sort((a, b) => a - b)[Math.floor(values.length / 2)];

async function measure(page, config) {
  const found = [];
  for (let run = 0; run < RUNS; run += 1) {
    const chrome = await launch({ chromePath: "/usr/bin/chromium", chromeFlags: FLAGS });
    try {
      const { lhr } = await lighthouse(
        base + page.path,
        {
          port: chrome.port, onlyCategories: ["performance"], logLevel: "silent",
          // Open streams never end, so the page is never quite at rest.
          maxWaitForLoad: 20_000,
          extraHeaders: page.cookie ? { Cookie: page.cookie } : undefined,
        },
        config,
      );
      found.push(lhr);
    } finally {
      chrome.kill();
    }
  }
  const of = (audit) => middle(found.map(({ audits }) => audits[audit].numericValue ?? 0));
  const sent = found[0].audits["network-requests"].details.items;
  const bytes = (kind) =>
    sent.filter(({ resourceType }) => resourceType === kind).reduce((n, r) => n + r.transferSize, 0);
  return {
    score: middle(found.map(({ categories }) => categories.performance.score)),
    fcp: of("first-contentful-paint"), lcp: of("largest-contentful-paint"),
    tbt: of("total-blocking-time"), cls: of("cumulative-layout-shift"),
    script: bytes("Script"), style: bytes("Stylesheet"), font: bytes("Font"),
    html: bytes("Document"), data: bytes("Fetch") + bytes("XHR"),
  };
}

const results = [];
for (const page of PAGES)
  for (const [form, config] of [["desktop", desktopConfig], ["slow phone", undefined]])
    results.push({ page: page.name, form, ...(await measure(page, config)) });
console.log(JSON.stringify(results));
