// Every glTF and GLB of a folder, by the Khronos validator: no error and no warning. Run by `make validate`.
import { readdirSync, readFileSync, statSync } from "node:fs";
import { dirname, join } from "node:path";
import { validateBytes } from "gltf-validator";

const all = (folder) =>
  readdirSync(folder).flatMap((name) => {
    const path = join(folder, name);
    return statSync(path).isDirectory() ? all(path) : /\.(gltf|glb)$/.test(name) ? [path] : [];
  });

let failed = 0;
for (const path of all(process.argv[2])) {
  const report = await validateBytes(new Uint8Array(readFileSync(path)), {
    uri: path,
    externalResourceFunction: (uri) =>
      Promise.resolve(new Uint8Array(readFileSync(join(dirname(path), decodeURIComponent(uri))))),
  });
  const said = report.issues.messages.filter((m) => m.severity < 2);
  console.log(`${said.length === 0 ? "ok      " : "FAILED  "}${path}`);
  said.slice(0, 5).forEach((m) => console.log(`        ${m.message} (${m.pointer})`));
  failed += said.length;
}
process.exit(failed > 0 ? 1 : 0);
