// Khronos's own judgement of a GLB file, as JSON on stdout: node validate-glb.mjs FILE
import { readFile } from "node:fs/promises";
import validator from "gltf-validator";

const report = await validator.validateBytes(new Uint8Array(await readFile(process.argv[2])), { maxIssues: 100 });
console.log(JSON.stringify({ ...report.issues, info: report.info }));
