// What the linter asks of the web: strict types, hooks by their rules, pages that everybody can use, short functions.
import query from "@tanstack/eslint-plugin-query";
import a11y from "eslint-plugin-jsx-a11y";
import reactHooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

export default tseslint.config(
  { ignores: ["dist", "src/api/schema.d.ts", "eslint.config.js"] },
  ...tseslint.configs.strict,
  ...query.configs["flat/recommended"],
  a11y.flatConfigs.recommended,
  reactHooks.configs.flat["recommended-latest"],
  {
    rules: {
      "react-hooks/incompatible-library": "off",
      "@typescript-eslint/no-non-null-assertion": "error",
      "max-lines-per-function": ["error", { max: 60, skipBlankLines: true, skipComments: true }],
      // The field that a dialog is opened for has the focus: both hands are on the keyboard.
      "jsx-a11y/no-autofocus": "off",
    },
  },
  { files: ["**/*.test.ts", "**/*.test.tsx", "src/test/**"], rules: { "max-lines-per-function": "off" } },
);
