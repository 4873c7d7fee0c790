import reactHooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

export default tseslint.config(
  { ignores: ["dist", "src/api/schema.d.ts", "eslint.config.js"] },
  ...tseslint.configs.strict,
  reactHooks.configs.flat["recommended-latest"],
  {
    rules: { "react-hooks/incompatible-library": "off", "@typescript-eslint/no-non-null-assertion": "error" },
  },
);
