/** Tags from a line with commas between, each once. */
export function tagsIn(line: string): string[] {
  return [...new Set(line.split(",").map((tag) => tag.trim()))].filter((tag) => tag !== "").slice(0, 20);
}
