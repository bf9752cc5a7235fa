import { expect, it } from "vitest";
import { ago } from "./ago";

const now = new Date("2030-05-10T12:00:00Z");

it.each([
  ["2030-05-10T11:59:40Z", "just now"],
  ["2030-05-10T11:15:00Z", "45 minutes ago"],
  ["2030-05-10T09:00:00Z", "3 hours ago"],
  ["2030-05-09T11:00:00Z", "yesterday"],
  ["2030-03-05T12:00:00Z", "2 months ago"],
  ["2027-05-10T12:00:00Z", "3 years ago"],
])("%s is %s", (then, words) => {
  expect(ago(new Date(then), now)).toBe(words);
});
