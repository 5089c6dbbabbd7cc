// Runs the validator of glTF's authors on a file and prints its report; files beside it are read as it asks for them.
const fs = require("fs");
const path = require("path");
const validator = require(path.join(process.env.REFERENCE_MODULES, "gltf-validator"));

const file = process.argv[2];
const beside = (uri) => Promise.resolve(new Uint8Array(fs.readFileSync(path.join(path.dirname(file), decodeURIComponent(uri)))));
validator
  .validateBytes(new Uint8Array(fs.readFileSync(file)), { uri: path.basename(file), externalResourceFunction: beside, maxIssues: 100 })
  .then((report) => process.stdout.write(JSON.stringify(report)));
