import { describe, expect, it } from "vitest";

import { duration, kilobytes, plural, sentence } from "./format";

describe("duration", () => {
  it.each([
    [0, "0 s"],
    [59.4, "59 s"],
    [60, "1 min"],
    [200, "3 min 20 s"],
    [7500, "2 h 5 min"],
    [-3, "0 s"],
  ])("puts %s seconds in words", (seconds, text) => expect(duration(seconds)).toBe(text));
});

describe("kilobytes", () => {
  it("counts 1,024 bytes, so the limit of 153,600 bytes reads 150 KB", () => expect(kilobytes(153_600)).toBe("150 KB"));
  it("changes to megabytes", () => expect(kilobytes(3_500_000)).toBe("3.3 MB"));
});

it("plural counts one apart", () => {
  expect(plural(1, "shot")).toBe("1 shot");
  expect(plural(0, "shot")).toBe("0 shots");
});

it("sentence closes a clause once", () => {
  expect(sentence("a lamp is off")).toBe("A lamp is off.");
  expect(sentence("Done.")).toBe("Done.");
  expect(sentence("")).toBe("");
});
