// How our own scripts are read; the vendored ones are left alone.
import js from "@eslint/js";
import globals from "globals";

export default [
  { ignores: ["**/vendor/**", "node_modules/**", "staticfiles/**", ".venv/**"] },
  js.configs.recommended,
  {
    files: ["kyrtos/static/kyrtos/**/*.js"],
    languageOptions: {
      sourceType: "script",
      globals: { ...globals.browser, htmx: "readonly", kyrtos: "writable" },
    },
    rules: {
      curly: ["error", "multi-line"],
      eqeqeq: "error",
      "max-len": ["error", { code: 140 }],
      "max-lines": ["error", 300],
      "no-var": "error",
      "prefer-const": "error",
      "no-implicit-globals": "error",
      "no-unused-vars": ["error", { args: "after-used" }],
    },
  },
];
