import { readdirSync, readFileSync } from "node:fs";
import { join } from "node:path";

const LICENCE = /^(licen[cs]e|notice|copying|ofl)([.-].*)?$/i;

/** Name, version, licence and licence text of everything that the built pages hold, as one text. */
export function notices(folder = ".") {
  const { packages } = JSON.parse(readFileSync(join(folder, "package-lock.json"), "utf8"));
  const shipped = Object.entries(packages).filter(([path, { dev, optional }]) => path && !dev && !optional);
  const parts = shipped.map(([path, { version }]) => {
    const own = join(folder, path);
    const { name, license } = JSON.parse(readFileSync(join(own, "package.json"), "utf8"));
    const texts = readdirSync(own).filter((file) => LICENCE.test(file)).map((file) => readFileSync(join(own, file), "utf8").trim());
    return [`${name} ${version}`, `Licence: ${license ?? "see below"}`, ...texts].join("\n\n");
  });
  const rule = `\n\n${"-".repeat(80)}\n\n`;
  return [`The pages of Nebrel hold parts of these packages, each under its own licence.`, ...parts].join(rule) + "\n";
}

/** A plugin that puts the notices beside the built pages. */
export function withNotices() {
  return {
    name: "notices",
    apply: "build",
    generateBundle() {
      this.emitFile({ type: "asset", fileName: "notices.txt", source: notices(import.meta.dirname) });
    },
  };
}
