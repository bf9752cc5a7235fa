import boundaries from "eslint-plugin-boundaries";
import reactHooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

/** The rooms of the pages, from the lowest up: each may import from those before it, and from itself. */
const ROOMS = ["api", "state", "ui", "views", "kinds", "bench", "choose", "shelf"];
/** These stand beside each other. */
const BESIDE = { choose: ["bench"], shelf: ["bench", "choose"] };
const below = (room) => ROOMS.slice(0, ROOMS.indexOf(room) + 1).filter((other) => !BESIDE[room]?.includes(other));

const element = (type) => ({ element: { type } });
const policy = (room) => ({ from: element(room), allow: below(room).map((other) => ({ to: element(other) })) });

export default tseslint.config(
  { ignores: ["src/api/schema.d.ts"] },
  ...tseslint.configs.strict,
  reactHooks.configs.flat.recommended,
  {
    rules: {
      "@typescript-eslint/no-non-null-assertion": "error",
      "@typescript-eslint/consistent-type-imports": "error",
    },
  },
  {
    files: ["src/**/*.{ts,tsx}"],
    ignores: ["src/**/*.test.{ts,tsx}", "src/testing/**", "src/*.tsx"],
    plugins: { boundaries },
    settings: {
      "boundaries/elements": ROOMS.map((room) => ({ type: room, pattern: `src/${room}` })),
      "import/resolver": { node: { extensions: [".ts", ".tsx"] } },
    },
    rules: {
      "boundaries/dependencies": ["error", { default: "disallow", policies: ROOMS.map(policy) }],
    },
  },
);
