import type { components } from "../../kit/api/schema";

type Series = components["schemas"]["SeriesPublic"];

/** Where a focus series stands, in words. */
export function seriesSaid(series: Series, underWay: boolean): string {
  const of = `${series.slices} of ${series.steps.length} slices`;
  switch (series.state) {
    case "shooting":
      return underWay ? `${of} are there` : `broken off: ${series.problem ?? `${of} are there`}`;
    case "merging":
      return `${of} are there and are being merged`;
    case "done":
      return `${of} merged to one take; the slices are kept`;
    case "failed":
      return series.problem ?? "the series could not be merged";
  }
}

/** How many slices it takes from the near to the far point. */
export function stepsSaid(slices: number, fNumber: number): string {
  if (slices < 2) return `A single take at f/${fNumber} keeps all between these points sharp.`;
  return `${slices} slices at f/${fNumber} keep all between these points sharp.`;
}
