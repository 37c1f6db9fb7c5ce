import type { Outlet, Spec } from "../kit/api/client";

/** What the form holds: texts as they are typed. */
export interface OutletForm {
  title: string;
  name: string;
  format: "jpeg" | "png";
  side: string;
  limit: "quality" | "weight";
  quality: string;
  kilobytes: string;
  coverage: string;
  shadow: "none" | "own";
  density: string;
  pattern: string;
}

export const emptyForm: OutletForm = {
  title: "",
  name: "",
  format: "jpeg",
  side: "2000",
  limit: "quality",
  quality: "85",
  kilobytes: "300",
  coverage: "85",
  shadow: "none",
  density: "72",
  pattern: "{code}_{angle}",
};

/** The form for an outlet that is there; a copy gets a name of its own. */
export function formOf(outlet: Outlet, copy: boolean): OutletForm {
  return {
    title: copy ? `${outlet.title} copy` : outlet.title,
    name: copy ? "" : outlet.name,
    format: outlet.format ?? "jpeg",
    side: String(outlet.side_px),
    limit: outlet.max_bytes ? "weight" : "quality",
    quality: String(outlet.quality ?? 85),
    kilobytes: String(outlet.max_bytes ? Math.floor(outlet.max_bytes / 1024) : 300),
    coverage: outlet.coverage ? String(Math.round(outlet.coverage * 100)) : "",
    shadow: outlet.shadow ?? "none",
    density: String(outlet.density_ppi ?? 72),
    pattern: outlet.name_pattern ?? "{code}_{angle}",
  };
}

/** A short name from a title: small letters, figures and dashes. */
export function shortName(title: string): string {
  return title
    .normalize("NFKD")
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-+|-+$/g, "")
    .slice(0, 40);
}

/** What goes to the program, which judges it: a number that is none goes as it is and comes back with a sentence. */
export function specOf(form: OutletForm): Spec {
  const jpeg = form.format === "jpeg";
  return {
    name: form.name || shortName(form.title),
    title: form.title.trim(),
    format: form.format,
    side_px: Number(form.side),
    quality: jpeg && form.limit === "quality" ? Number(form.quality) : null,
    max_bytes: jpeg && form.limit === "weight" ? Number(form.kilobytes) * 1024 : null,
    coverage: form.coverage.trim() ? Number(form.coverage) / 100 : null,
    margin: null,
    shadow: form.shadow,
    colour_space: "srgb",
    density_ppi: Number(form.density),
    name_pattern: form.pattern,
  };
}
