import { describe, expect, it } from "vitest";

import type { Outlet } from "../kit/api/client";
import { emptyForm, formOf, shortName, specOf } from "./outlet.logic";

const outlet: Outlet = { ...specOf({ ...emptyForm, title: "Quay Four", limit: "weight", kilobytes: "150" }), shipped: true };

describe("outlets in a form", () => {
  it("makes short names that folders and the command line can bear", () => {
    expect(shortName("  Quay Four & Söhne! ")).toBe("quay-four-so-hne");
    expect(shortName("Quay Four")).toBe("quay-four");
  });

  it("gives back what it was given", () => {
    expect({ ...specOf(formOf(outlet, false)), shipped: true }).toEqual(outlet);
    expect(outlet.max_bytes).toBe(153600);
    expect(outlet.quality).toBeNull();
  });

  it("gives a copy a name of its own", () => {
    expect(specOf(formOf(outlet, true)).name).toBe("quay-four-copy");
  });

  it("sends no JPEG rule with a PNG, and leaves coverage open when none is given", () => {
    const spec = specOf({ ...emptyForm, title: "x", format: "png", coverage: " " });
    expect([spec.quality, spec.max_bytes, spec.coverage]).toEqual([null, null, null]);
  });
});
