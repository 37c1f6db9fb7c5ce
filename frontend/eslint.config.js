import js from "@eslint/js";
import importPlugin from "eslint-plugin-import";
import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

const stations = ["home", "plan", "shoot", "cut", "finish", "deliver"];

export default tseslint.config(
  { ignores: ["src/kit/api/schema.d.ts"] },
  js.configs.recommended,
  ...tseslint.configs.strict,
  {
    files: ["src/**/*.{ts,tsx}"],
    plugins: { import: importPlugin, "react-hooks": hooks },
    languageOptions: { parserOptions: { ecmaFeatures: { jsx: true } } },
    settings: { "import/resolver": { node: { extensions: [".ts", ".tsx"] } }, "import/parsers": { "@typescript-eslint/parser": [".ts", ".tsx"] } },
    rules: {
      "react-hooks/rules-of-hooks": "error",
      "react-hooks/exhaustive-deps": "error",
      "import/no-cycle": "error",
      "max-lines": ["error", { max: 300 }],
      "no-restricted-imports": [
        "error",
        { patterns: stations.map((name) => ({ group: [`../${name}/*`], message: `stations meet through ../${name} (its index)` })) },
      ],
    },
  },
);
