import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

/** Effects hand back what cleans up after them, or nothing: a call's answer may be a promise tomorrow. */
const effectReturns = {
  meta: { type: "problem", messages: { returns: "An effect returns a function that cleans up, or nothing: put this call into a block of its own." }, schema: [] },
  create(context) {
    const services = context.sourceCode.parserServices;
    const cleans = (node) => {
      const type = services.getTypeAtLocation(node);
      const all = type.isUnion() ? type.types : [type];
      return all.every((one) => one.getCallSignatures().length > 0 || (one.flags & 32768) !== 0);
    };
    return {
      "CallExpression[callee.name=/^use(Layout|Insertion)?Effect$/]"(call) {
        const effect = call.arguments[0];
        if (effect?.type !== "ArrowFunctionExpression") return;
        if (effect.body.type !== "BlockStatement") {
          if (!cleans(effect.body)) context.report({ node: effect.body, messageId: "returns" });
          return;
        }
        const walk = (node) => {
          if (!node || typeof node.type !== "string" || /Function/.test(node.type)) return;
          if (node.type === "ReturnStatement" && node.argument && !cleans(node.argument)) context.report({ node, messageId: "returns" });
          for (const [key, value] of Object.entries(node)) {
            if (key === "parent") continue;
            if (Array.isArray(value)) value.forEach(walk);
            else if (value && typeof value === "object") walk(value);
          }
        };
        effect.body.body.forEach(walk);
      },
    };
  },
};

/** A button that says nothing of its type sends the form around it. */
const buttonType = {
  meta: { type: "problem", messages: { type: 'A button names its type: type="button", or type="submit" where it sends a form.' }, schema: [] },
  create(context) {
    return {
      JSXOpeningElement(node) {
        const named = (name) => node.attributes.find((one) => one.type === "JSXAttribute" && one.name.name === name);
        const as = named("as")?.value;
        const native = node.name.type === "JSXIdentifier" && node.name.name === "button";
        if (!native && !(as?.type === "Literal" && as.value === "button")) return;
        if (!named("type")) context.report({ node, messageId: "type" });
      },
    };
  },
};

/** Types are checked by the compiler; this holds what it does not: the rules of hooks, promises nobody waits for, leftovers. */
export default tseslint.config(
  { ignores: ["web/src/api/schema.d.ts", "web/dist", "e2e/results"] },
  ...tseslint.configs.recommended,
  {
    plugins: { "react-hooks": hooks, orthavis: { rules: { "effect-returns": effectReturns, "button-type": buttonType } } },
    languageOptions: { parserOptions: { project: ["./web/tsconfig.json", "./e2e/tsconfig.json"], tsconfigRootDir: import.meta.dirname } },
    rules: {
      "react-hooks/rules-of-hooks": "error",
      "react-hooks/exhaustive-deps": "error",
      "@typescript-eslint/no-floating-promises": "error",
      "@typescript-eslint/no-misused-promises": "error",
      "@typescript-eslint/no-non-null-assertion": "off",
      "orthavis/effect-returns": "error",
      "orthavis/button-type": "error",
      eqeqeq: ["error", "smart"],
      "no-console": "error",
      // A component that nobody can hold in mind is several.
      "max-lines-per-function": ["error", { max: 250 }],
    },
  },
  // Times are printed for whoever measures them.
  { files: ["e2e/tests/speed.spec.ts"], rules: { "no-console": "off" } },
);
