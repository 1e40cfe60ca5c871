/** Lets node's own test runner read TypeScript: types are taken off as a module is loaded, and endings are found. */
import { existsSync, readFileSync } from "node:fs";
import { register } from "node:module";
import { fileURLToPath, pathToFileURL } from "node:url";

if (!process.env.NINEGLASS_HOOKED) {
  process.env.NINEGLASS_HOOKED = "yes";
  register(import.meta.url, pathToFileURL("./"));
}

export async function resolve(name, context, next) {
  if (name.startsWith(".") && context.parentURL?.startsWith("file:")) {
    for (const ending of [".ts", ".tsx"]) {
      const found = new URL(name + ending, context.parentURL);
      if (existsSync(fileURLToPath(found))) return { url: found.href, shortCircuit: true };
    }
  }
  return next(name, context);
}

export async function load(url, context, next) {
  if (!/\.tsx?$/.test(url)) return next(url, context);
  const { default: ts } = await import("typescript");
  const options = { module: ts.ModuleKind.ESNext, target: ts.ScriptTarget.ES2022, jsx: ts.JsxEmit.ReactJSX };
  const { outputText } = ts.transpileModule(readFileSync(fileURLToPath(url), "utf8"), { compilerOptions: options });
  return { format: "module", source: outputText, shortCircuit: true };
}
