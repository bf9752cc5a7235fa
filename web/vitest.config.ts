import { defineConfig } from "vitest/config";

// Tests that show parts of a page say so in their first line: `// @vitest-environment happy-dom`.
export default defineConfig({
  test: {
    include: ["src/**/*.test.{ts,tsx}"],
    environmentOptions: { happyDOM: { url: "http://page.test/" } },
    pool: "threads",
    // As many as CI has cores; left alone, one of two stays idle.
    maxWorkers: 2,
    // A busy machine is slow, not wrong.
    testTimeout: 30_000,
  },
});
