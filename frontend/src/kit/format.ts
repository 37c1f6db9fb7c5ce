import type { Verdict } from "./api/client";

/** "3 min 20 s", "45 s", "2 h 5 min". */
export function duration(seconds: number): string {
  const whole = Math.max(0, Math.round(seconds));
  if (whole < 60) return `${whole} s`;
  if (whole < 3600) return whole % 60 ? `${Math.floor(whole / 60)} min ${whole % 60} s` : `${whole / 60} min`;
  return `${Math.floor(whole / 3600)} h ${Math.round((whole % 3600) / 60)} min`;
}

/** "153 KB" with 1 KB = 1,024 bytes, as outlets count. */
export function kilobytes(bytes: number): string {
  return bytes < 1024 * 1024 ? `${Math.round(bytes / 1024)} KB` : `${(bytes / 1024 / 1024).toFixed(1)} MB`;
}

export const verdictWord: Record<Verdict, string> = { clean: "clean", look_again: "look again", redo: "redo" };

export function plural(count: number, one: string, many = `${one}s`): string {
  return `${count} ${count === 1 ? one : many}`;
}

/** A sentence case for reasons that come as clauses. */
export function sentence(text: string): string {
  return text ? text.charAt(0).toUpperCase() + text.slice(1) + (/[.!?]$/.test(text) ? "" : ".") : "";
}
