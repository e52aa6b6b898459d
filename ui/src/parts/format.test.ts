import { expect, test } from "vitest";

import {
  bytes,
  change,
  count,
  dimensions,
  factor,
  length,
  metres,
  pixels,
  plural,
  roughly,
  seconds,
  toThree,
} from "./format";

test("a length is written in the unit that suits its size", () => {
  expect([0, 0.00004, 0.00042, 0.0173, 0.0999, 0.1, 0.62, 9.61, 123.4, 1300, 17_300].map(length)).toEqual([
    "0 mm",
    "0.04 mm",
    "0.42 mm",
    "17.3 mm",
    "99.9 mm",
    "0.1 m",
    "0.62 m",
    "9.61 m",
    "123 m",
    "1.3 km",
    "17.3 km",
  ]);
  expect(metres(0.0042)).toBe("0.0042 m");
  expect(dimensions([0.62, 0.91, 0.05])).toBe("0.62 × 0.91 × 0.05 m");
  expect(dimensions([0.012, 0.0085, 0.003])).toBe("12.0 × 8.50 × 3.00 mm");
});

test("figures are grouped, signed and counted in words that agree", () => {
  expect(count(1_234_567.4)).toBe("1\u202f234\u202f567");
  expect([plural(1, "hole"), plural(0, "hole"), plural(1200, "hole")]).toEqual([
    "1 hole",
    "0 holes",
    "1\u202f200 holes",
  ]);
  expect([change(200, 78), change(100, 100), change(50, 75), change(0, 5)]).toEqual(["−61 %", "±0 %", "+50 %", "0 %"]);
  expect([bytes(12), bytes(1536), bytes(48 * 1024 ** 2), bytes(5 * 1024 ** 4)]).toEqual([
    "12 B",
    "1.5 KiB",
    "48 MiB",
    "5120 GiB",
  ]);
  expect([0.42, 59.97, 72, 119.6].map(seconds)).toEqual(["0.4 s", "1 min 0 s", "1 min 12 s", "2 min 0 s"]);
  expect([0.4, 12, 57, 61, 3540, 3541, 7500].map(roughly)).toEqual([
    ...["5 s", "15 s", "1 min", "2 min", "59 min", "1 h 0 min", "2 h 5 min"],
  ]);
  expect([pixels(0.853), pixels(320)]).toEqual(["0.85 px", "≥ 100 px"]);
  expect([factor(1.00341, 3), factor(1_384_211.2, 2)]).toEqual(["1.003", "≥ 100"]);
  expect([toThree(51.23), toThree(8206)]).toEqual(["51.2", "8\u202f210"]);
});
