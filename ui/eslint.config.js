import js from "@eslint/js";
import jsxA11y from "eslint-plugin-jsx-a11y";
import reactHooks from "eslint-plugin-react-hooks";
import globals from "globals";
import tseslint from "typescript-eslint";

export default tseslint.config(
  { ignores: ["dist", "src/api/schema.d.ts"] },
  js.configs.recommended,
  ...tseslint.configs.strict,
  jsxA11y.flatConfigs.recommended,
  {
    files: ["src/**/*.{ts,tsx}"],
    plugins: { "react-hooks": reactHooks },
    languageOptions: { globals: globals.browser },
    rules: {
      "react-hooks/rules-of-hooks": "error",
      "react-hooks/exhaustive-deps": "error",
      "@typescript-eslint/no-non-null-assertion": "error",
      // A region that scrolls must be reached by the keyboard.
      "jsx-a11y/no-noninteractive-tabindex": ["error", { tags: [], roles: ["region", "tabpanel"] }],
    },
  },
  {
    // Arithmetic on flat arrays: every place is known to be there, and asking at each would hide the arithmetic.
    files: [
      "src/surface/**",
      "src/viewport/surfaceLevel.ts",
      "src/viewport/normalLines.ts",
      "src/viewport/marks.ts",
      "src/viewport/descentLevel.ts",
      "src/stations/normals/aims.ts",
      "src/stations/normals/useNormalMarks.ts",
      "src/stations/triangulation/useCuts.ts",
      "src/stations/levels/useDescent.ts",
      "src/stations/levels/vertices.ts",
      "src/stations/levels/DescentBar.tsx",
      "src/testing/**",
      "**/*.test.{ts,tsx}",
      "tests/**/*.ts",
    ],
    rules: { "@typescript-eslint/no-non-null-assertion": "off" },
  },
  {
    files: ["src/stations/*/**"],
    rules: {
      "no-restricted-imports": [
        "error",
        {
          paths: [{ name: "radix-ui", message: "Use the wrapped part in src/parts." }],
          patterns: [
            { regex: "^\\.\\./(?!\\.\\./)[a-z]+/", message: "Stations do not import each other." },
            { regex: "/views/", message: "A station knows nothing of the views." },
          ],
        },
      ],
    },
  },
  {
    files: ["src/**/*.tsx"],
    ignores: ["src/parts/**", "src/stations/**"],
    rules: {
      "no-restricted-imports": [
        "error",
        { paths: [{ name: "radix-ui", message: "Use the wrapped part in src/parts." }] },
      ],
    },
  },
);
