// The scripts run in browsers as modules; Alpine and Vega come as globals, the worker has its own.
import js from "@eslint/js";
import globals from "globals";

export default [
  js.configs.recommended,
  {
    languageOptions: { globals: { ...globals.browser, Alpine: "readonly", vegaEmbed: "readonly", vega: "readonly" } },
    rules: {
      complexity: ["error", 20],
      eqeqeq: "error",
      "max-len": ["error", { code: 140, ignoreRegExpLiterals: true }],
      "no-unused-vars": ["error", { argsIgnorePattern: "^_" }],
      "prefer-const": "error",
    },
  },
  { files: ["**/worker.js"], languageOptions: { globals: { ...globals.serviceworker, VERSION: "readonly", SHELL: "readonly" } } },
];
