// Says of every .glb file in a folder which errors gltf-validator finds, as JSON by name.
const fs = require("node:fs");
const path = require("node:path");
const validator = require(path.join(__dirname, "..", "web", "node_modules", "gltf-validator"));

const folder = process.argv[2];
const files = fs.readdirSync(folder).filter((name) => name.endsWith(".glb"));
Promise.all(
  files.map(async (name) => {
    const report = await validator.validateBytes(new Uint8Array(fs.readFileSync(path.join(folder, name))));
    const errors = report.issues.messages.filter((one) => one.severity === 0);
    return [name, errors.map((one) => `${one.pointer}: ${one.message}`)];
  }),
).then((all) => console.log(JSON.stringify(Object.fromEntries(all))));
