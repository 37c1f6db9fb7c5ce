import createFetchClient, { type Middleware } from "openapi-fetch";
import createClient from "openapi-react-query";

import type { components, paths } from "./schema";

export type Shoot = components["schemas"]["ShootPublic"];
export type ShootSummary = components["schemas"]["ShootSummary"];
export type Shot = components["schemas"]["ShotPublic"];
export type Frame = components["schemas"]["FramePublic"];
export type Run = components["schemas"]["RunPublic"];
export type Verdict = "clean" | "look_again" | "redo";
export type Counts = components["schemas"]["StationCounts"];
export type Treatment = components["schemas"]["Treatment"];
export type Spec = components["schemas"]["Spec"];
export type Outlet = components["schemas"]["OutletPublic"];
export type Sheet = components["schemas"]["Sheet"];
export type SheetRow = components["schemas"]["SheetRow"];
export type Tuning = components["schemas"]["Tuning"];
export type Touch = components["schemas"]["Touch"];
export type DrawnShape = components["schemas"]["Shape"];
export type Place = components["schemas"]["PlacePublic"];
export type Material = "auto" | "solid" | "strands" | "clear" | "pale";
export type ViewName = "frame" | "matte" | "white" | "grey" | "loud" | "checks" | "shadow" | "difference";
export type MarkName = "none" | "not_white" | "blown_out";

/** A sentence from the program, with the status it came with; 0 when nothing answered at all. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    text: string,
  ) {
    super(text);
  }
}

const NO_ANSWER = "The program does not answer. If it was stopped, start it again; this page goes on by itself.";

/** Whether the trouble goes away by itself: the server or its database is not there at the moment. */
export function isAway(fault: unknown): boolean {
  return fault instanceof Problem && (fault.status === 0 || fault.status === 503);
}

async function problemOf(response: Response): Promise<Problem> {
  const body: unknown = await response.json().catch(() => null);
  const detail = typeof body === "object" && body !== null && "detail" in body ? String(body.detail) : response.statusText;
  return new Problem(response.status, detail);
}

const problems: Middleware = {
  async onResponse({ response }) {
    if (!response.ok) throw await problemOf(response);
    return response;
  },
  onError({ error }) {
    return error instanceof Problem ? error : new Problem(0, NO_ANSWER);
  },
};

export const http = createFetchClient<paths>({ baseUrl: "/" });
http.use(problems);

/** Server state: queries and mutations by path, typed from the OpenAPI document. */
export const api = createClient(http);

/** Send one file with its progress left to the browser; refusals come back as a Problem. */
export async function sendFrame(shootId: number, file: File, kind: "auto" | "product" | "backdrop") {
  return (await sendFile(`/api/shoots/${shootId}/frames`, file, { kind })) as components["schemas"]["FrameReceived"];
}

/** A matte or a retouched picture for a shot. */
export async function bringBack(shotId: number, file: File) {
  return (await sendFile(`/api/shots/${shotId}/back`, file, {})) as components["schemas"]["CameBack"];
}

async function sendFile(address: string, file: File, fields: Record<string, string>): Promise<unknown> {
  const form = new FormData();
  form.append("file", file, file.name);
  for (const [name, value] of Object.entries(fields)) form.append(name, value);
  let response: Response;
  try {
    response = await fetch(address, { method: "POST", body: form });
  } catch {
    throw new Problem(0, NO_ANSWER);
  }
  if (!response.ok) throw await problemOf(response);
  return response.json();
}
