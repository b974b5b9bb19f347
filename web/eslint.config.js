import js from "@eslint/js";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

export default ts.config({ ignores: ["src/api/types.ts"] }, js.configs.recommended, ts.configs.strict, {
  files: ["src/**/*.{ts,tsx}"],
  plugins: { "react-hooks": hooks },
  rules: {
    ...hooks.configs.recommended.rules,
    "max-lines": ["error", 400],
    eqeqeq: "error",
  },
});
