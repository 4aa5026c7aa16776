import js from "@eslint/js";
import globals from "globals";

export default [
  { ignores: ["web/static/", "e2e/testdata/", "dist/", "node_modules/"] },
  js.configs.recommended,
  {
    rules: {
      eqeqeq: "error",
      "no-shadow": "error",
      "no-var": "error",
      "prefer-const": "error",
      "no-unused-vars": ["error", { caughtErrors: "none" }],
    },
  },
  { files: ["web/assets/*.js"], languageOptions: { globals: globals.browser, sourceType: "module" } },
  { files: ["web/assets/sw.js"], languageOptions: { globals: { ...globals.serviceworker, STATIC: "readonly" }, sourceType: "script" } },
  { files: ["web/assets/test/*.js", "*.config.js"], languageOptions: { globals: globals.node, sourceType: "module" } },
];
