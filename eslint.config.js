import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

/** Types are checked by the compiler; this holds what it does not: the rules of hooks, promises nobody waits for, leftovers. */
export default tseslint.config(
  { ignores: ["web/src/api/schema.d.ts", "web/dist", "e2e/results"] },
  ...tseslint.configs.recommended,
  {
    plugins: { "react-hooks": hooks },
    languageOptions: { parserOptions: { project: ["./web/tsconfig.json", "./e2e/tsconfig.json"], tsconfigRootDir: import.meta.dirname } },
    rules: {
      "react-hooks/rules-of-hooks": "error",
      "react-hooks/exhaustive-deps": "error",
      "@typescript-eslint/no-floating-promises": "error",
      "@typescript-eslint/no-misused-promises": "error",
      "@typescript-eslint/no-non-null-assertion": "off",
      eqeqeq: ["error", "smart"],
      "no-console": "error",
    },
  },
  // Times are printed for whoever measures them.
  { files: ["e2e/tests/speed.spec.ts"], rules: { "no-console": "off" } },
);
